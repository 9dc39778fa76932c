// @vitest-environment jsdom
// A brush being worked on: its history, the draft that outlives a reload, a save that somebody else was before.
import { act, renderHook, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { type Answer, around, interfaceOf } from '../tests/kit';
import { changes, useBrush } from './useBrush';

type Brush = Schemas['Brush'];
const brush = (mm: number, more: Partial<Brush> = {}) =>
  ({
    format: 'eddymist/brush',
    version: 1,
    name: 'plain',
    nib: { shape: 'round' },
    weight: [
      [0, mm],
      [1, mm],
    ],
    ...more,
  }) as Brush;
const width = (b: Brush | null) => b?.weight[0]?.[1];
const P = '/api/v1/productions/p1/brushes/b1';

/** A brush on a server: versions are added, a stale save is refused. */
function server(start: { draft?: Brush; current?: number } = {}) {
  const versions = [{ version: 1, brush: brush(0.5), says: '', by: 'Dov', at: '2026-01-01T00:00:00Z' }];
  let draft: Brush | null = start.draft ?? null;
  let from: number | null = null;
  let current = start.current ?? 1;
  const asked = interfaceOf({
    [`GET ${P}`]: (): Answer => ({ body: { id: 'b1', name: 'plain', current_version: current, draft, draft_from_version: draft && from, versions } }),
    [`PUT ${P}/draft`]: (body) => {
      const sent = body as { brush: Brush | null; from_version: number };
      [draft, from] = [sent.brush, sent.from_version];
      return { body: null };
    },
    [`POST ${P}/versions`]: (body) => {
      const sent = body as { brush: Brush; from_version: number; says: string };
      if (sent.from_version !== current)
        return { status: 409, body: { detail: 'this brush was changed meanwhile', current: versions.find((v) => v.version === current) } };
      current += 1;
      draft = null;
      versions.push({ version: current, brush: sent.brush, says: sent.says, by: 'Dov', at: '2026-01-02T00:00:00Z' });
      return { body: { id: 'b1' } };
    },
    [`POST ${P}/current`]: (body) => {
      current = (body as { version: number }).version;
      draft = null;
      return { body: null };
    },
  });
  return {
    asked,
    draft: () => draft,
    meanwhile: (mm: number) => versions.push({ version: ++current, brush: brush(mm), says: '', by: 'Ilse', at: '2026-01-02T00:00:00Z' }),
    versions,
  };
}

const open = async () => {
  const hook = renderHook(() => useBrush('p1', 'b1'), { wrapper: around('artist') });
  await waitFor(() => expect(hook.result.current.brush).not.toBeNull());
  return hook;
};

beforeEach(() => vi.useFakeTimers({ shouldAdvanceTime: true }));
afterEach(() => vi.useRealTimers());

test('a drag is one step of the history, however many places it passed', async () => {
  server();
  const { result } = await open();
  for (const mm of [0.6, 0.7, 0.8]) act(() => result.current.change(brush(mm), false));
  act(() => result.current.change(brush(0.9)));
  expect(width(result.current.brush)).toBe(0.9);
  act(() => result.current.undo());
  expect(width(result.current.brush)).toBe(0.5);
  expect(result.current.canUndo).toBe(false);
  act(() => result.current.redo());
  expect(width(result.current.brush)).toBe(0.9);
  expect(result.current.canRedo).toBe(false);
});

test('a drag that ends where it began is no step', async () => {
  server();
  const { result } = await open();
  act(() => result.current.change(brush(0.8), false));
  act(() => result.current.change(brush(0.5)));
  expect(result.current.canUndo).toBe(false);
  expect(result.current.unsaved).toBe(false);
});

test('any walk of changes, undo and redo comes to what a list of states says', async () => {
  server();
  const { result } = await open();
  const states = [0.5];
  let here = 0;
  // The same walk every time: a linear congruential step chooses what is done.
  let seed = 7;
  for (let k = 0; k < 60; k++) {
    seed = (seed * 1103515245 + 12345) % 2147483648;
    const what = seed % 3;
    if (what === 0) {
      const mm = 0.1 + k / 100;
      act(() => result.current.change(brush(mm)));
      states.splice(here + 1, states.length, mm);
      here += 1;
    } else if (what === 1) {
      act(() => result.current.undo());
      here = Math.max(0, here - 1);
    } else {
      act(() => result.current.redo());
      here = Math.min(states.length - 1, here + 1);
    }
    expect(width(result.current.brush)).toBe(states[here]);
    expect([result.current.canUndo, result.current.canRedo]).toEqual([here > 0, here < states.length - 1]);
  }
});

test('unsaved work is kept a moment after the last change, and is what the page opens with', async () => {
  const s = server();
  const { result } = await open();
  act(() => result.current.change(brush(0.6)));
  act(() => result.current.change(brush(0.7)));
  await act(() => vi.advanceTimersByTimeAsync(600));
  expect(width(s.draft())).toBe(0.7);
  expect(s.asked.filter((a) => a.method === 'PUT')).toHaveLength(1);
  const again = await open();
  expect(width(again.result.current.brush)).toBe(0.7);
  expect(again.result.current.unsaved).toBe(true);
  // Undone to what was saved, no draft is left.
  act(() => result.current.undo());
  act(() => result.current.undo());
  await act(() => vi.advanceTimersByTimeAsync(600));
  expect(s.draft()).toBeNull();
});

test('a save adds a version; where somebody was before, both are there, and mine goes on top of theirs', async () => {
  const s = server();
  const { result } = await open();
  act(() => result.current.change(brush(0.6)));
  await act(async () => {
    await result.current.save('heavier');
  });
  await waitFor(() => expect(result.current.unsaved).toBe(false));
  expect(s.versions.map((v) => v.says)).toEqual(['', 'heavier']);
  s.meanwhile(0.3);
  act(() => result.current.change(brush(0.9)));
  await act(async () => {
    await result.current.save('again');
  });
  await waitFor(() => expect(result.current.clash?.theirs).toMatchObject({ version: 3, by: 'Ilse' }));
  expect(width(result.current.brush)).toBe(0.9);
  expect(s.versions).toHaveLength(3);
  await act(async () => {
    await result.current.clash?.mine();
  });
  await waitFor(() => expect(result.current.clash).toBeNull());
  expect(s.versions.map((v) => width(v.brush))).toEqual([0.5, 0.6, 0.3, 0.9]);
});

test('unsaved work that began from an older version is said when it is opened; theirs can be used, and undone', async () => {
  const s = server();
  const first = await open();
  act(() => first.result.current.change(brush(0.9)));
  await act(() => vi.advanceTimersByTimeAsync(600));
  first.unmount();
  s.meanwhile(0.3);
  const { result } = await open();
  await waitFor(() => expect(result.current.clash?.theirs.version).toBe(2));
  expect(width(result.current.brush)).toBe(0.9);
  act(() => result.current.clash?.use());
  await waitFor(() => expect(result.current.clash).toBeNull());
  expect(width(result.current.brush)).toBe(0.3);
  act(() => result.current.undo());
  expect(width(result.current.brush)).toBe(0.9);
});

test('what changed is said part by part, the weight where it changed most', () => {
  const from = brush(0.5);
  expect(changes(null, from)).toBe('');
  expect(changes(from, from)).toBe('saved');
  const to = brush(0.5, {
    weight: [
      [0, 0.5],
      [1, 0.75],
    ],
    colour: '#204060',
    nib: { shape: 'ellipse' } as Brush['nib'],
    name: 'other',
  });
  const said = changes(from, to);
  expect(said).toContain('weight +0.250 mm at effort 1');
  for (const part of ['nib', 'colour', 'name']) expect(said).toContain(part);
  expect(changes(to, from)).toContain('weight −0.250 mm at effort 1');
});
