// @vitest-environment jsdom
// Long lists page by page, whatever changes meanwhile; a name that is refused; fields of a draft that cannot be saved, each beside its part.
import { cleanup, render, renderHook, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, test, vi } from 'vitest';
import { PAGE, ProblemError, take, takeAll, takeVersions } from '../api/client';
import { Card, type MatchProps, refusedIn } from '../brushes/Card';
import { PartTiles } from '../brushes/PartTiles';
import { usePens } from '../parts/lists';
import { Rename } from '../parts/Rename';
import { around, interfaceOf } from './kit';

vi.mock('../../engine/prebuilt/eddymist_wasm', () => ({}));
afterEach(cleanup);

const rows = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => ({ id: `r${from + i}` }));
/** A list of so many rows, answered a page at a time. */
const listed = (n: number) => {
  const asked: (string | undefined)[] = [];
  const page = async (after?: string) => {
    asked.push(after);
    const from = after ? Number(after.slice(1)) + 1 : 0;
    return rows(from, Math.min(n, from + PAGE));
  };
  return { asked, page };
};

test.each([
  [0, 1],
  [1, 1],
  [PAGE - 1, 1],
  [PAGE, 2],
  [PAGE + 1, 2],
  [2 * PAGE + 5, 3],
])('a list of %i rows is asked for %i times, and each row is there once, in order', async (n, times) => {
  const { asked, page } = listed(n);
  expect(await takeAll(page)).toEqual(rows(0, n));
  expect(asked.length).toBe(times);
});

test('what came with the first answer is not asked for again', async () => {
  const { asked, page } = listed(PAGE + 30);
  expect(await takeAll(page, rows(0, PAGE))).toEqual(rows(0, PAGE + 30));
  expect(asked).toEqual([`r${PAGE - 1}`]);
});

test('a row that moved to a later page is there once, and a server that always answers the same is not asked for ever', async () => {
  let k = 0;
  const shifting = async () => rows(k === 0 ? 0 : PAGE - 1, k++ === 0 ? PAGE : PAGE + 10);
  expect((await takeAll(shifting)).map((r) => r.id)).toEqual(rows(0, PAGE + 10).map((r) => r.id));
  const same = vi.fn(async () => rows(0, PAGE));
  expect(await takeAll(same)).toEqual(rows(0, PAGE));
  expect(same).toHaveBeenCalledTimes(2);
});

test('a list whose last row is gone meanwhile is read anew, and not for ever', async () => {
  const gone = new ProblemError('This list was changed meanwhile.', 409);
  let k = 0;
  const changing = async (after: string | undefined) => {
    if (after && k++ === 0) throw gone;
    return after ? rows(PAGE, PAGE + 3) : rows(0, PAGE);
  };
  expect(await takeAll(changing)).toEqual([...rows(0, PAGE), ...rows(PAGE, PAGE + 3)]);
  const always = vi.fn(async (after: string | undefined) => (after ? Promise.reject(gone) : rows(0, PAGE)));
  await expect(takeAll(always)).rejects.toThrow('changed meanwhile');
  expect(always.mock.calls.length).toBeLessThan(10);
});

test.each([1, PAGE - 1, PAGE, PAGE + 1, 2 * PAGE + 5])('all %i versions of a thing, the newest first', async (n) => {
  const version = (k: number) => ({ version: k });
  const older = vi.fn(async (before = n + 1) => Array.from({ length: Math.min(PAGE, before - 1) }, (_, k) => version(before - 1 - k)));
  const whole = Array.from({ length: n }, (_, k) => version(n - k));
  expect(await takeVersions(older)).toEqual(whole);
  expect(await takeVersions(older, whole.slice(0, PAGE))).toEqual(whole);
  expect(older.mock.calls.length).toBeLessThan(2 * (n / PAGE + 2));
});

test('a page that fails fails the list', async () => {
  let k = 0;
  const breaking = async () => {
    if (k++) throw new ProblemError('The server cannot be reached.', 0);
    return rows(0, PAGE);
  };
  await expect(takeAll(breaking)).rejects.toThrow('cannot be reached');
});

test('the drawer goes from the finest line to the heaviest; a pen without a line comes first', async () => {
  const pen = (id: string, width_mm?: number[]) => ({ id, name: id, card: {}, line: width_mm && { width_mm }, tags: [], sheet_number: null, kept_at: '' });
  interfaceOf({
    'GET /api/v1/productions/p1/pens': { body: [pen('brush', [1.9, 2.1, 0.2]), pen('fine', [0.3, 0.3, 9]), pen('none'), pen('nib', [0.7, 0.8, 0.9])] },
  });
  const { result } = renderHook(usePens, { wrapper: around() });
  await waitFor(() => expect(result.current.data?.map((p) => p.id)).toEqual(['none', 'fine', 'nib', 'brush']));
});

test('a name that is refused stays in its field with the reason; Escape leaves all as it was', async () => {
  const asked: string[] = [];
  const onName = async (name: string) => {
    asked.push(name);
    if (name === 'taken') throw new ProblemError('This name is taken.', 422);
  };
  render(
    <Rename name="nib" label="the pen" may onName={onName}>
      nib
    </Rename>,
  );
  const to = async (name: string) => {
    const field = screen.getByLabelText<HTMLInputElement>('name of the pen');
    await userEvent.clear(field);
    await userEvent.type(field, `${name}{Enter}`);
    return field;
  };
  await userEvent.click(screen.getByRole('button', { name: 'rename the pen' }));
  const field = await to('taken');
  expect((await screen.findByRole('alert')).textContent).toBe('This name is taken.');
  expect([field.value, field.getAttribute('aria-invalid')]).toEqual(['taken', 'true']);
  await to('free');
  await waitFor(() => expect(screen.queryByLabelText('name of the pen')).toBeNull());
  // The same name again, or none, asks nothing.
  await userEvent.click(screen.getByRole('button', { name: 'rename the pen' }));
  await to('nib');
  await userEvent.click(screen.getByRole('button', { name: 'rename the pen' }));
  await userEvent.type(screen.getByLabelText('name of the pen'), 'x{Escape}');
  expect([asked, screen.queryByRole('alert')]).toEqual([['taken', 'free'], null]);
});

test.each([
  ['Edge', 'edge'],
  ['Lead-in', 'lead_in'],
  ['Lead-out', 'lead_out'],
  ['Stroke kind', 'stroke'],
  ['Weight', 'floor_mm'],
  ['Opacity and random width', 'chance'],
])('%s says what is wrong with “%s”, and no other part does', (title, field) => {
  const refused = { [field]: 'It lies outside' };
  const match = { parts: [], locked: [], onLock: () => {}, refused } as MatchProps;
  for (const t of ['Edge', 'Lead-in', 'Lead-out', 'Stroke kind', 'Weight', 'Opacity and random width', 'Nib'])
    expect(refusedIn(t, refused).length, t).toBe(t === title ? 1 : 0);
  render(
    <Card title={title} match={match} may>
      controls
    </Card>,
  );
  expect(screen.getByRole('alert').textContent).toBe('It lies outside. It is not saved so; everything else is.');
  const brush = { nib: { shape: 'round' }, weight: [] } as never;
  render(<PartTiles brush={brush} order={['edge', 'lead-in', 'lead-out', 'stroke', 'weight', 'opacity', 'nib']} open="nib" match={match} onOpen={() => {}} />);
  expect(screen.getAllByText('not saved')).toHaveLength(1);
});

test('an error names the field that the server names', async () => {
  interfaceOf({});
  const refused = { status: 422, title: '', detail: 'edge: no', field: 'edge' };
  const answer = Promise.resolve({ error: refused, response: new Response('{}', { status: 422 }) });
  await expect(take(answer)).rejects.toMatchObject({ message: 'Edge: no', status: 422, field: 'edge' });
});
