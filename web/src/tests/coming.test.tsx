// @vitest-environment jsdom
// Files that come: what each became in words, the next take handed in with a note, asked for where several may be meant, set aside and back.
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, test, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { CameIn, saysCame } from '../checks/CameIn';
import { FixChoice, saysFix, useFixChoice } from '../checks/FixChoice';
import { SetAside } from '../checks/SetAside';
import { TakeOf } from '../checks/TakeOf';
import { HandIn } from '../parts/HandIn';
import { mustFix } from '../parts/mustFix';
import { ReturnedNotes } from '../trial/Returned';
import { interfaceOf, show } from './kit';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const came = (file: string, more: Partial<Schemas['FileTaken']> = {}) =>
  ({ file, id: `id-${file}`, fields: null, take: false, of: null, asked: false, there: false, ...more }) as Schemas['FileTaken'];

test('what came is told by what it became, and is removed as a whole', () => {
  const all = [
    came('a.zip/0005.png'),
    came('a.zip/A-0004.png', { take: true, of: '4.png' }),
    came('6.png', { take: true, of: '6.png' }),
    came('7.png', { id: null, there: true }),
    came('8.png', { asked: true }),
  ];
  expect(saysCame(all)).toBe('1 new drawing · 2 next takes: A-0004.png of 4.png, 6.png · 1 file is the same as before');
  const did = { undo: vi.fn(), select: vi.fn() };
  show(<CameIn came={all} table={null} onUndo={did.undo} onSelect={did.select} onDismiss={() => {}} />);
  fireEvent.click(screen.getByText('Say of which'));
  fireEvent.click(screen.getByText('Remove what came in'));
  expect(did.select).toHaveBeenCalledWith('id-8.png');
  expect(did.undo.mock.calls[0]?.[0]).toHaveLength(4);
});

test('a file is handed in with its note; a refusal leaves it chosen, with the reason', async () => {
  const sent: FormData[] = [];
  const done = vi.fn();
  let fine = false;
  vi.stubGlobal('fetch', async (_: string, how: { body: FormData }) => {
    sent.push(how.body);
    return fine
      ? new Response(JSON.stringify(came('mine.tif', { take: true })), { status: 200 })
      : new Response('{"detail":"the same picture"}', { status: 422 });
  });
  show(<HandIn drawing={{ id: 'd', file: '0004.png' }} onDone={done} />, 'artist');
  const file = new File(['x'], 'mine.tif', { type: 'image/tiff' });
  await userEvent.upload(screen.getByLabelText('file for 0004.png'), file);
  await screen.findByText('mine.tif for 0004.png');
  await userEvent.type(screen.getByLabelText('note with the take'), 'thinner now');
  fireEvent.click(screen.getByText('Hand in take'));
  await screen.findByText('The same picture');
  expect(screen.getByText('mine.tif for 0004.png')).toBeTruthy();
  fine = true;
  fireEvent.click(screen.getByText('Hand in take'));
  await screen.findByText(/it is being checked/);
  expect(sent.map((s) => [s.get('note'), (s.get('file') as File).name])).toEqual([
    ['thinner now', 'mine.tif'],
    ['thinner now', 'mine.tif'],
  ]);
  expect(done).toHaveBeenCalledTimes(1);
});

test('a drawing that may be the next take of several is asked for once, and may be none of them', async () => {
  const asked = interfaceOf({ 'PUT /api/v1/productions/p1/drawings/d/take-of': { body: null } });
  const asks = ['A', 'B'].map((n) => ({ id: n, file: `${n}-0004.png`, sha256: n, delivery_name: 'one' }));
  const drawing = { id: 'd', asks } as unknown as Schemas['DrawingView'];
  const act = async (what: () => Promise<unknown>) => !!(await what().then(() => true));
  show(<TakeOf drawing={drawing} may act={act} />);
  fireEvent.click(screen.getByText('B-0004.png'));
  fireEvent.click(screen.getByText(/^None of them/));
  await waitFor(() => expect(asked.map((a) => a.body)).toEqual([{ of: 'B' }, { of: null }]));
  cleanup();
  show(<TakeOf drawing={{ ...drawing, asks: [] }} may act={act} />);
  expect(screen.queryByRole('button')).toBeNull();
});

test('what is set aside is counted by why, and restored by its name; a viewer only reads it', () => {
  const of = [
    { id: 'x', file: 'in/slate.png', sha256: '', why: 'no-drawing', by: 'Ilse', at: '2026-02-03T00:00:00Z' },
    { id: 'y', file: '9.png', sha256: '', why: 'removed', by: 'Ilse', at: '2026-02-03T00:00:00Z' },
  ] as Schemas['AsideView'][];
  const back = vi.fn();
  show(<SetAside of={of} may onRestore={back} />);
  expect(screen.getByText('1 file is no drawing · 1 drawing was removed: not in any count')).toBeTruthy();
  fireEvent.click(screen.getByText('Restore slate.png'));
  expect(back).toHaveBeenCalledWith('x', 'in/slate.png');
  cleanup();
  show(<SetAside of={of} may={false} onRestore={back} />);
  expect(screen.queryByRole('button')).toBeNull();
});

const finding = (kind: string, role: string, must_mend: boolean, x = 1) => ({ kind, role, x, y: 0, must_mend, message: '' }) as unknown as Schemas['Finding'];

function Choice({ drawing, onFix }: { drawing: Schemas['DrawingView']; onFix: (fix: unknown) => void }) {
  const choice = useFixChoice(drawing);
  onFix(choice.fix);
  return <FixChoice of={choice} />;
}

test('what must be fixed is what the guide says until something is ticked otherwise', () => {
  const findings = [finding('heavy', 'contour', true), finding('gap', 'stripe', false, 50), ...[1, 2, 3].map((x) => finding('hook', 'contour', false, x))];
  const onFix = vi.fn();
  show(<Choice drawing={{ check: { findings } } as unknown as Schemas['DrawingView']} onFix={onFix} />);
  expect(onFix).toHaveBeenLastCalledWith(null);
  fireEvent.click(screen.getByLabelText('hook contour, all 3'));
  fireEvent.click(screen.getByLabelText('1 heavy contour'));
  fireEvent.click(screen.getByLabelText('2 gap stripe'));
  const fix = onFix.mock.calls[onFix.mock.calls.length - 1]?.[0];
  expect(fix).toEqual([
    { kind: 'gap', role: 'stripe', at: [50, 0] },
    { kind: 'hook', role: 'contour', at: undefined },
  ]);
  expect(findings.map(mustFix(fix))).toEqual([false, true, true, true, true]);
  expect(findings.map(mustFix(null))).toEqual([true, false, false, false, false]);
  fireEvent.click(screen.getByText('Only the note'));
  expect(onFix).toHaveBeenLastCalledWith([]);
  expect(saysFix([])).toBe('only the note, nothing that was found');
});

test('a trial page is handed in with the edges that the guide wants: smooth, or hard', async () => {
  for (const [finish, kind] of [
    ['smooth', 'png'],
    ['hard', 'hard.png'],
  ]) {
    const drawing = { id: 'd', delivery: 'e', file: '4.tif', finish, pins: [], decisions: [], later: null, check: null };
    interfaceOf({ 'GET /api/v1/productions/p1/drawings/d': { body: drawing } });
    const asked: string[] = [];
    vi.stubGlobal('fetch', async (url: string) => {
      asked.push(url);
      return new Response(new Blob(['x']), { status: 200 });
    });
    show(<ReturnedNotes id="d" page="t" />);
    fireEvent.click(await screen.findByText('Hand in…'));
    await screen.findByText('4.png for 4.tif');
    expect(asked).toEqual([`/api/v1/productions/p1/trials/t/out/${kind}`]);
    cleanup();
  }
});
