// @vitest-environment jsdom
// Regions left out: on the guide's page, and the form that a region drawn on a drawing is named with.
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { afterEach, expect, test, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { RegionForm } from '../checks/RegionForm';
import { RegionsLeftOut } from '../guides/RegionsLeftOut';
import { type Answer, interfaceOf, show } from './kit';

afterEach(cleanup);

const slate: Schemas['LeftOut'] = {
  name: 'slate',
  shot: '012',
  points: [
    [0, 0],
    [480, 0],
    [480, 120],
    [0, 120],
  ],
};
const guide = { name: 'g', left_out: [slate, { ...slate, name: 'logo', shot: undefined }] } as unknown as Schemas['LineGuide'];

test('a region is renamed, moved to every shot and taken out, and never left without a name', () => {
  const changed = vi.fn();
  render(<RegionsLeftOut guide={guide} lead onChange={changed} />);
  expect(screen.getAllByText('480×120 px, 0 from the left, 0 from the top')).toHaveLength(2);
  const name = screen.getByLabelText('what lies in region 1');
  fireEvent.blur(name, { target: { value: ' clapper ' } });
  expect(changed.mock.calls[0]?.[0].left_out[0]).toEqual({ ...slate, name: 'clapper' });
  fireEvent.blur(name, { target: { value: ' ' } });
  expect(changed).toHaveBeenCalledTimes(1);
  fireEvent.blur(screen.getByLabelText('shot of region 1'), { target: { value: '' } });
  expect(changed.mock.calls[1]?.[0].left_out[0].shot).toBeNull();
  fireEvent.click(screen.getByLabelText('Remove region 2'));
  expect(changed.mock.calls[2]?.[0].left_out).toEqual([slate]);
});

test('who may not change the guide sees its regions, and a guide without any says how they are made', () => {
  const { rerender } = render(<RegionsLeftOut guide={guide} lead={false} onChange={() => {}} />);
  expect(screen.getByLabelText('what lies in region 1')).toHaveProperty('disabled', true);
  expect(screen.queryByRole('button')).toBeNull();
  rerender(<RegionsLeftOut guide={{ ...guide, left_out: [] }} lead onChange={() => {}} />);
  expect(screen.getByText(/drag a rectangle or draw round it/)).toBeTruthy();
});

test('a region goes into the guide as it stands now, in px of its page, on its shot or on every drawing; a refusal is shown', async () => {
  const [guides, versions] = ['GET /api/v1/productions/p1/guides', 'POST /api/v1/productions/p1/guides/g1/versions'];
  const refusal: Answer = { status: 422, body: { title: 'no', detail: 'left_out: a guide has 200 regions at most' } };
  let answer = refusal;
  const asked = interfaceOf({
    [guides]: { body: [{ id: 'g1', version: 7, guide, by: 'x', at: '2026-01-01T00:00:00Z' }] },
    [versions]: () => answer,
    'POST /api/v1/productions/p1/drawings/d1/regions': { status: 201, body: { id: 'r1' } },
  });
  const [done, own] = [vi.fn(), vi.fn()];
  const drawn: [number, number][] = [
    [20, 40],
    [220, 40],
    [220, 140],
    [20, 140],
  ];
  show(<RegionForm guide="g1" drawing="d1" scale={2} shot="012" points={drawn} onOwn={own} onDone={done} />);
  fireEvent.change(screen.getByLabelText('what lies there'), { target: { value: 'lettering' } });
  fireEvent.click(screen.getByLabelText('on shot 012'));
  fireEvent.click(screen.getByRole('button', { name: 'Leave region out' }));
  await waitFor(() => expect(screen.getByRole('alert').textContent).toContain('200 regions at most'));
  expect(done).not.toHaveBeenCalled();
  answer = { status: 201, body: { id: 'g1' } };
  fireEvent.click(screen.getByLabelText('on every drawing'));
  fireEvent.click(screen.getByRole('button', { name: 'Leave region out' }));
  await waitFor(() => expect(done).toHaveBeenCalledTimes(1));
  const sent = asked.filter((q) => q.method === 'POST')[1]?.body as { guide: typeof guide; from_version: number };
  const points = drawn.map((q) => q.map((v) => v / 2));
  expect([sent.from_version, sent.guide.left_out?.[2]]).toEqual([7, { name: 'lettering', points }]);
  // On this drawing alone: in px of the page too, with its undo.
  fireEvent.click(screen.getByLabelText('on this drawing and its next takes'));
  fireEvent.click(screen.getByRole('button', { name: 'Leave region out' }));
  await waitFor(() => expect(own).toHaveBeenCalledWith('r1', 'lettering'));
  expect(asked[asked.length - 1]?.body).toEqual({ name: 'lettering', points });
});
