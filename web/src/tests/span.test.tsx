// @vitest-environment jsdom
// Many drawings at once: what marking them as ready would pass over is said and asked once; returned together they have one note.
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, test, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { type Chosen, farEnd, isSpan, span, toggled } from '../checks/chosen';
import { SpanBar } from '../checks/SpanBar';

afterEach(cleanup);

const drawing = (n: number, standing: string) =>
  ({ id: `d${n}`, file: `${n}.png`, manifest: { drawing: String(n) }, standing, summary: { findings: n } }) as unknown as Schemas['DrawingSummary'];

function shown(standings: string[], lead = true) {
  const [onReady, onReturn, onIntend, onClear] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()];
  const of = standings.map((s, i) => drawing(i + 1, s));
  const open = of.filter((d) => !['handed-on', 'returned'].includes(d.standing));
  const kinds = ['heavy', 'gap', 'hook'] as Schemas['FindingKind'][];
  const bar = { kinds, must: kinds.slice(0, 2), onIntend, lead, folded: false, play: null, onReady, onReturn, onClear, onFold: () => {} };
  const view = render(<SpanBar span={{ of, open, whole: true }} {...bar} />);
  /** Another span is drawn: its first so many. */
  const shorten = (n: number) => view.rerender(<SpanBar span={{ of: of.slice(0, n), open: open.slice(0, n), whole: true }} {...bar} />);
  return { onReady, onReturn, onIntend, onClear, of, open, shorten };
}
const click = (name: string) => fireEvent.click(screen.getByRole('button', { name }));

test('a span without a fault is marked as ready in one step', () => {
  const { onReady, open } = shown(['may-go-on', 'handed-on', 'open']);
  click('Mark 2 as ready');
  expect(onReady).toHaveBeenCalledWith(open);
});

test('what must be fixed and what could not be checked is named, and asked for once', () => {
  const { onReady, open } = shown(['may-go-on', 'goes-back', 'not-checked', 'may-go-on']);
  click('Mark 4 as ready');
  expect(onReady).not.toHaveBeenCalled();
  expect(screen.getByRole('alert').textContent).toContain('2 must be fixed; 3 could not be checked.');
  click('Cancel');
  expect(screen.queryByRole('alert')).toBeNull();
  click('Mark 4 as ready');
  click('Mark the other 2 as ready');
  expect(onReady.mock.calls[0]?.[0].map((d: { id: string }) => d.id)).toEqual(['d1', 'd4']);
  click('Mark 4 as ready');
  click('Mark all 4 all the same');
  expect(onReady).toHaveBeenLastCalledWith(open);
});

test('what was asked of one span is not asked of the next', () => {
  const { shorten } = shown(['goes-back', 'may-go-on', 'may-go-on']);
  click('Return 3 with a note');
  expect(screen.getByLabelText('note for all 3')).toBeTruthy();
  shorten(2);
  expect(screen.queryByLabelText('note for all 2')).toBeNull();
  click('Mark 2 as ready');
  expect(screen.getByRole('alert').textContent).toContain('1 must be fixed');
});

test('many that must be fixed are told by the first eight', () => {
  shown(Array.from({ length: 11 }, () => 'goes-back'));
  click('Mark 11 as ready');
  expect(screen.getByRole('alert').textContent).toContain('1, 2, 3, 4, 5, 6, 7, 8 and 3 more must be fixed.');
  expect(screen.queryByRole('button', { name: /^Mark the other/ })).toBeNull();
});

test('a span is returned with one note, never with none', () => {
  const { onReturn, open } = shown(['may-go-on', 'goes-back']);
  click('Return 2 with a note');
  const note = screen.getByLabelText('note for all 2');
  fireEvent.change(note, { target: { value: '   ' } });
  fireEvent.submit(note);
  expect(onReturn).not.toHaveBeenCalled();
  fireEvent.change(note, { target: { value: ' the contour is heavy ' } });
  fireEvent.submit(note);
  expect(onReturn).toHaveBeenCalledWith(open, 'the contour is heavy', null);
  expect(screen.queryByLabelText('note for all 2')).toBeNull();
});

test('all findings of a kind are marked as intended with a reason, never with none', () => {
  const { onIntend, of } = shown(['returned', 'goes-back']);
  click('Mark findings as intended…');
  const why = screen.getByLabelText('why they are intended');
  fireEvent.change(screen.getByLabelText('kind of finding'), { target: { value: 'hook' } });
  fireEvent.change(why, { target: { value: ' ' } });
  fireEvent.submit(why);
  expect(onIntend).not.toHaveBeenCalled();
  fireEvent.change(why, { target: { value: ' the hooks are fur ' } });
  fireEvent.submit(why);
  expect(onIntend).toHaveBeenCalledWith(of, 'hook', 'the hooks are fur');
});

test('what is chosen one by one is what was toggled oftener on than off, and a span has all between', () => {
  let state = 20261129;
  const next = (n: number) => {
    state = (state * 1103515245 + 12345) % 2 ** 31;
    return state % n;
  };
  for (let run = 0; run < 200; run++) {
    const [a, b] = [next(40), next(40)];
    let chosen: Chosen | null = next(2) ? span(a, b) : null;
    const on = new Set(chosen ?? []);
    for (let k = next(12); k > 0; k--) {
      const at = next(40);
      chosen = toggled(chosen, at);
      if (!on.delete(at)) on.add(at);
    }
    expect(chosen ?? []).toEqual([...on].sort((x, y) => x - y));
    expect(chosen === null).toBe(on.size === 0);
    expect([isSpan(span(a, b)), span(a, b)]).toEqual([true, span(b, a)]);
    expect(farEnd(span(a, b), a)).toBe(b);
  }
  expect(isSpan([1, 2, 4])).toBe(false);
});

test('who is no lead decides nothing', () => {
  shown(['may-go-on', 'goes-back'], false);
  expect(screen.queryByRole('button', { name: /Mark|Return/ })).toBeNull();
});
