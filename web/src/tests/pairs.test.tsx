// @vitest-environment jsdom
// What pairs of pressure and ink say on the page, by the way that they came about and by what they could not tell.
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import { afterEach, expect, test, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { inWords } from '../tablets/GoneOver';
import { PairsResult } from '../tablets/PairsResult';

vi.mock('../engine/engine', () => ({ curvePoints: (knots: number[][]) => knots, loadEngine: () => Promise.resolve() }));
vi.mock('../session', () => ({ useOpen: () => ({ production: { id: 'p' }, session: {} }) }));
afterEach(cleanup);

const pair = (raw: number, width_mm: number) => ({ stroke: 0, t_s: 0, raw, width_mm, speed_mm_s: 60, direction_deg: 0, x_mm: 1, y_mm: 1 });

const pairs: Schemas['PressurePairs'] = {
  format: 'eddymist/pressure-pairs',
  version: 1,
  way: 'over',
  pairs: [pair(0.1, 0.3), pair(0.5, 0.7), pair(0.9, 1.1)],
  lag_ms: 71.4,
  registration_mm: { median: 0.412, p95: 1.08 },
  response: [
    [0.1, 0],
    [0.9, 1],
  ],
  scale: 'widths',
  widths: [
    [0.1, 0.3],
    [0.9, 1.1],
  ],
  unseen: { median: 0.0214, p95: 0.081, strokes: 25 },
  efforts_off: [],
  placement: [1, 0, 0, 0, 1, 0],
  not_gone_over: 0.1,
  dropouts: 0,
  warnings: ['41 % of the page’s lines were not gone over'],
};

const view = (of: Partial<Schemas['PressurePairs']> = {}, beside: Partial<Schemas['PairsView']> = {}): Schemas['PairsView'] => ({
  pairs: { ...pairs, ...of },
  response: pairs.response,
  by_efforts: pairs.response,
  efforts_off: [
    [0, 0.002],
    [0.25, 0.06],
    [0.5, -0.04],
  ],
  pen: null,
  size_mm: [210, 148],
  laid_mm: [
    [
      [1, 1],
      [2, 2],
    ],
  ],
  ...beside,
});

const row = (name: string) => within(screen.getByText(name).closest('.figure-row') as HTMLElement);

test('lines that were gone over: the lag, the hand beside its line, and each effort in words', () => {
  render(<PairsResult view={view()} scan={null} busy={false} onNudge={() => {}} />);
  expect(row('the hand answers after').getByText('71 ms')).toBeTruthy();
  expect(row('the hand beside its line').getByText('0.41 mm, at most 1.08 mm for 95 %')).toBeTruthy();
  expect(row('widths of strokes not used in the fit').getByText('2.1 % off, at most 8.1 % for 95 %')).toBeTruthy();
  expect(row('pairs').getByText('3, from 25 strokes')).toBeTruthy();
  expect(row('feather').getByText('as named')).toBeTruthy();
  expect(row('light').getByText('drawn 0.06 too hard')).toBeTruthy();
  expect(row('normal').getByText('drawn 0.04 too light')).toBeTruthy();
  expect(screen.queryByText('pace')).toBeNull();
  // A warning is a sentence.
  expect(screen.getByText('41 % of the page’s lines were not gone over.')).toBeTruthy();
  // Without a pen of the drawer the scale is the lines' own; without a scan there is nothing to lay the strokes over.
  expect(screen.getByText(/from the thinnest line \(0\) to the widest \(1\)/)).toBeTruthy();
  expect(screen.queryByRole('img', { name: 'the strokes laid over the scan' })).toBeNull();
});

test('paper over the tablet: pace and nib instead of a lag, and the strokes on their scan', () => {
  const nib = { law: 'ellipse' as const, length_mm: 2, breadth_mm: 0.6, angle_deg: 37.6, residual_mm: 0.01 };
  const pace = [
    [20, 1.05],
    [120, 0.9],
  ];
  const scan = { sha256: 'abc', dpi: 300, width_px: 2480, height_px: 1748, name: 'page.png' };
  render(<PairsResult view={view({ way: 'paper', lag_ms: 0, nib, pace }, { pen: 'x' })} scan={scan} busy={false} onNudge={() => {}} />);
  expect(row('pace').getByText('20 mm/s × 1.05, 120 mm/s × 0.90')).toBeTruthy();
  expect(row('nib').getByText('flat, at 38°')).toBeTruthy();
  expect(row('strokes beside their lines')).toBeTruthy();
  expect(screen.queryByText('the hand answers after')).toBeNull();
  expect(screen.getByText('on the scale of effort of the pen’s own card')).toBeTruthy();
  const laid = screen.getByRole('img', { name: 'the strokes laid over the scan' });
  expect(laid.getAttribute('viewBox')).toBe('0 0 210 148');
  expect(laid.querySelector('image')?.getAttribute('href')).toBe('/api/v1/productions/p/images/abc/preview');
  expect(laid.querySelectorAll('path')).toHaveLength(1);
});

test('a pen that does not go by pressure says so, and shows no efforts', () => {
  render(<PairsResult view={view({ response: [], unseen: undefined }, { response: [], efforts_off: [] })} scan={null} busy={false} onNudge={() => {}} />);
  expect(screen.getByText(/hardly goes by pressure: the five efforts stand/)).toBeTruthy();
  expect(row('widths of strokes not used in the fit').getByText('too few strokes')).toBeTruthy();
  expect(screen.queryByText('The five efforts, by these pairs')).toBeNull();
});

test('a stroke over a line is told in a few words what to do', () => {
  const every = ['good', 'slower', 'nearer', 'evenly', 'elsewhere'] as const;
  const say = (advice: (typeof every)[number]) => inWords({ offMm: 1.94, advice, lines: [] });
  expect(say('good')).toBe('Last stroke: 1.9 mm from its line, even. Good.');
  expect(say('slower')).toMatch(/1\.9 mm from its line\. Again, slower\.$/);
  expect(new Set(every.map(say)).size).toBe(5);
});

test('strokes are moved over the scan by key and by drag, and laid again from where they lie; lines that were gone over are not moved', () => {
  const scan = { sha256: 'abc', dpi: 300, width_px: 2480, height_px: 1748, name: 'page.png' };
  const nudge = vi.fn();
  const { rerender } = render(<PairsResult view={view({ way: 'paper' })} scan={scan} busy={false} onNudge={nudge} />);
  const laid = () => screen.getByRole('img', { name: 'the strokes laid over the scan' });
  for (const [key, shiftKey] of [
    ['ArrowLeft', false],
    ['ArrowDown', true],
    ['[', false],
  ] as const)
    fireEvent.keyDown(laid(), { key, shiftKey });
  expect(screen.getByText('moved −0.2 mm across, +2.0 mm down, turned −0.2°')).toBeTruthy();
  expect(laid().querySelector('g')?.getAttribute('transform')).toBe('translate(-0.2 2) rotate(-0.2 105 74)');
  fireEvent.click(screen.getByText('Lay again from here'));
  expect(nudge).toHaveBeenCalledWith({ placement: pairs.placement, dx_mm: -0.2, dy_mm: 2, turn_deg: -0.2 });
  fireEvent.click(screen.getByText('Undo moves'));
  expect(screen.queryByText('Lay again from here')).toBeNull();
  // Other keys are the page's.
  expect(fireEvent.keyDown(laid(), { key: 'Tab' })).toBe(true);
  rerender(<PairsResult view={view({ way: 'over' })} scan={scan} busy={false} onNudge={nudge} />);
  fireEvent.keyDown(laid(), { key: 'ArrowLeft' });
  expect(laid().getAttribute('tabindex')).toBeNull();
  expect(screen.queryByText(/^moved/)).toBeNull();
});
