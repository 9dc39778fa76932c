// @vitest-environment jsdom
// Sampler sheets on the page: what is said of a photo, which picture stands under the measured edges, and what a cell's state is.
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, test, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { ResolutionField } from '../pens/BringIn';
import { cellState, SheetPicture, sheetPictures } from '../pens/SheetPicture';

vi.mock('../session', () => ({ useOpen: () => ({ production: { id: 'p' }, session: {} }) }));
afterEach(cleanup);

const stroke: Schemas['StrokeReading'] = {
  slot: 0,
  from: [100, 200],
  to: [400, 200],
  direction_deg: 0,
  begins_mm: 0,
  length_mm: 30,
  step_mm: 10,
  width_mm: [0.5, 0.5, 0.5, 0.5],
  left_mm: [-0.25, -0.25, -0.25, -0.25],
  right_mm: [0.25, 0.25, 0.25, 0.25],
};
const cell: Schemas['CellReading'] = { id: 'effort-0.5', kind: 'effort', corners_px: [], strokes: [stroke] } as unknown as Schemas['CellReading'];
const reading = {
  plan: {
    format: 'eddymist/sampler-sheet',
    version: 1,
    paper: 'a4',
    number: '7K2M9Q',
    size_mm: [210, 297],
    marks: [],
    mark_mm: 15.75,
    cells: [{ id: 'effort-0.5', kind: 'effort', title: 'normal', instruction: '', area: [10, 20, 76, 31], strokes: [] }],
  },
  resolution_dpi: 254,
  page_px: [
    [0, 0],
    [2100, 0],
    [2100, 2970],
    [0, 2970],
  ],
  cells: [cell],
} as unknown as Schemas['SheetReading'];

test('a photo stands there laid flat, a scan as it came', () => {
  expect(sheetPictures('/i/a', reading)).toEqual({ whole: '/i/a/preview?flat=true', large: '/i/a' });
  const photo = { ...reading, photo: { px_per_mm: 12, fewest_px_per_mm: 11, lens_bends: 0.01, frames_off_mm: 0.01 } };
  expect(sheetPictures('/i/a', photo)).toEqual({ whole: '/i/a/preview?laid=true', large: '/i/a/preview?laid=true' });
});

test('a photo is said to be one, and then needs no resolution', () => {
  const [again, said] = [vi.fn(), vi.fn()];
  const field = (photo: boolean, value: string) => (
    <ResolutionField
      value={value}
      onChange={() => {}}
      again="Read again"
      ready
      onAgain={again}
      photo={photo}
      onPhoto={said}
      scaleBy="the sheet tells its scale"
    />
  );
  const { rerender } = render(field(false, ''));
  expect(screen.getByRole('button', { name: 'Read again' })).toHaveProperty('disabled', true);
  fireEvent.click(screen.getByLabelText('a photo: the sheet tells its scale'));
  expect(said).toHaveBeenCalledWith(true);
  rerender(field(true, ''));
  expect(screen.getByLabelText('Resolution, if the file has none')).toHaveProperty('disabled', true);
  fireEvent.click(screen.getByRole('button', { name: 'Read again' }));
  expect(again).toHaveBeenCalledTimes(1);
  // Lines have no marks: it is a card that tells their scale.
  rerender(<ResolutionField value="600" onChange={() => {}} again="Measure again" ready onAgain={again} photo={false} onPhoto={said} scaleBy="a card" />);
  expect(screen.getByLabelText('a photo: a card')).toHaveProperty('checked', false);
});

test('a cell says whether it was read, and can be chosen where it lies', () => {
  expect(cellState(cell, false)).toBe('read');
  expect(cellState(cell, true)).toBe('left out');
  expect(cellState({ ...cell, says: ['1, 2: a stain'] }, false)).toBe('read in part');
  expect(cellState({ ...cell, strokes: [], says: ['its lines are too thin for this photo'] }, false)).toBe('not read');
  expect(cellState({ ...cell, kind: 'signature', strokes: [] }, false)).toBe('no line in it');
  const chosen = vi.fn();
  render(<SheetPicture reading={reading} width={2100} height={2970} src="/i" leftOut={[]} onCell={chosen} />);
  fireEvent.click(screen.getByLabelText('normal: read'));
  expect(chosen).toHaveBeenCalledWith('effort-0.5');
  // Both edges a quarter of a millimetre from the line, in px of the picture: ten to the mm.
  const edges = [...document.querySelectorAll('path')].map((p) => p.getAttribute('d') ?? '');
  expect(edges.map((d) => /^M\s*[\d.]+[ ,]([\d.]+)/.exec(d)?.[1]).map(Number)).toEqual([197.5, 202.5]);
});
