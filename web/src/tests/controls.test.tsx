// @vitest-environment jsdom
// The controls that every page is made of: typed figures, handles, the weight curve, work that fails, a screen's own scale.
import { act, cleanup, fireEvent, render, renderHook, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { ProblemError, pathOf, sendFiles, take } from '../api/client';
import { Handle } from '../brushes/Handle';
import { CurveEditor } from '../lanes/CurveEditor';
import { Figure } from '../parts/Figure';
import { useScreenScale } from '../parts/screen';
import { figure, pair } from '../parts/states';
import { useWork } from '../parts/useWork';
import { interfaceOf } from './kit';

vi.mock('../engine/engine', () => ({ curvePoints: (knots: number[][]) => knots }));
beforeEach(() => localStorage.clear());
afterEach(cleanup);

test.each([
  ['0,75', 0.75],
  ['1.25', 1.25],
  ['-2', -2],
])('%s typed is %f', async (typed, value) => {
  const got: number[] = [];
  render(<Figure value={0.5} digits={2} label="width" onValue={(v) => got.push(v)} />);
  const field = screen.getByLabelText('width');
  await userEvent.clear(field);
  await userEvent.type(field, `${typed}{Enter}`);
  expect(got).toEqual([value]);
});

test.each(['', '0.5000'])('“%s” typed changes nothing and shows what was there', async (typed) => {
  const got: number[] = [];
  render(<Figure value={0.5} digits={2} label="width" onValue={(v) => got.push(v)} />);
  const field = screen.getByLabelText<HTMLInputElement>('width');
  await userEvent.clear(field);
  if (typed) await userEvent.type(field, typed);
  await userEvent.tab();
  expect([got, field.value]).toEqual([[], '0.50']);
});

test.each([
  ['wide', 'type a number'],
  ['1..2', 'type a number'],
  ['Infinity', 'type a number'],
  ['20.5', '0.05 to 20'],
  ['-1', '0.05 to 20'],
])('“%s” typed stays where it is, says “%s”, and changes nothing; Escape puts back what was there', async (typed, says) => {
  const got: number[] = [];
  render(<Figure value={0.5} digits={2} label="width" range={[0.05, 20]} onValue={(v) => got.push(v)} />);
  const field = screen.getByLabelText<HTMLInputElement>('width');
  await userEvent.clear(field);
  await userEvent.type(field, typed);
  await userEvent.tab();
  expect([got, field.value, screen.getByRole('alert').textContent]).toEqual([[], typed, says]);
  fireEvent.keyDown(field, { key: 'Escape' });
  expect([field.value, screen.queryByRole('alert')]).toEqual(['0.50', null]);
});

test('a handle goes by arrow keys, ten steps with shift, and not at all where it may not', () => {
  const steps: number[] = [];
  const handle = (disabled: boolean) => (
    <svg role="img" aria-label="drawing">
      <Handle x={0} y={0} label="length" value={4} text="4 mm" disabled={disabled} onDrag={() => {}} onStep={(k) => steps.push(k)} />
    </svg>
  );
  const { rerender } = render(handle(false));
  const slider = screen.getByRole('slider', { name: 'length' });
  for (const key of ['ArrowUp', 'ArrowRight', 'ArrowDown', 'ArrowLeft', 'a']) fireEvent.keyDown(slider, { key });
  fireEvent.keyDown(slider, { key: 'ArrowUp', shiftKey: true });
  expect(steps).toEqual([1, 1, -1, -1, 10]);
  rerender(handle(true));
  fireEvent.keyDown(screen.getByRole('slider'), { key: 'ArrowUp' });
  expect(steps).toHaveLength(5);
  expect(screen.getByRole('slider').getAttribute('tabindex')).toBe('-1');
});

test('whatever is typed or stepped, the weight curve never falls', () => {
  let knots = [
    // A match gives more digits than are shown.
    [0, 0.2],
    [0.5, 0.5006],
    [1, 1.1006],
  ];
  const editor = () => <CurveEditor knots={knots} onChange={(k) => (knots = k)} />;
  const { rerender } = render(editor());
  for (const [i, typed] of [
    [0, '9'],
    [1, '0.01'],
    [2, '-3'],
    [1, '40'],
    [0, '0'],
  ] as const) {
    const field = screen.getAllByLabelText(/width in mm at effort/)[i] as HTMLInputElement;
    fireEvent.change(field, { target: { value: typed } });
    fireEvent.blur(field);
    rerender(editor());
    const widths = knots.map((k) => k[1] ?? 0);
    expect(widths, typed).toEqual([...widths].sort((a, b) => a - b));
    expect(Math.min(...widths)).toBeGreaterThan(0);
  }
  for (let k = 0; k < 400; k++) fireEvent.keyDown(screen.getAllByRole('slider')[0] as Element, { key: 'ArrowUp', shiftKey: true });
  rerender(editor());
  expect(knots[0]?.[1]).toBeLessThanOrEqual(knots[1]?.[1] ?? 0);
});

test('one piece of work at a time: what it is, why it failed, and the next one clears it', async () => {
  const { result } = renderHook(() => useWork());
  let end = () => {};
  let going: Promise<void>;
  act(() => {
    going = result.current.work('Measuring…', () => new Promise<void>((done) => (end = done)));
  });
  expect(result.current.busy).toBe('Measuring…');
  await act(async () => {
    end();
    await going;
  });
  expect(result.current.busy).toBe('');
  await act(() => result.current.work('Again', () => Promise.reject(new Error('too dark'))));
  expect([result.current.busy, (result.current.error as Error).message]).toEqual(['', 'too dark']);
  await act(() => result.current.work('Once more', async () => {}));
  expect(result.current.error).toBeNull();
});

test.each(['0', '-4', '90', 'wide', ''])('a stored scale of “%s” is none: the screen is taken at 96 px to the inch', (stored) => {
  localStorage.setItem('px-per-mm', stored);
  const { result } = renderHook(() => useScreenScale());
  expect([result.current.matched, result.current.pxPerMm]).toEqual([false, 96 / 25.4]);
  act(() => result.current.keep(5.2));
  expect([result.current.matched, result.current.pxPerMm, localStorage.getItem('px-per-mm')]).toEqual([true, 5.2, '5.2']);
});

test('a problem becomes an error with its sentence, whatever the server gave', async () => {
  const response = (status: number) => new Response(null, { status });
  await expect(take(Promise.resolve({ error: { detail: 'the sheet is blank' }, response: response(422) }))).rejects.toMatchObject({
    message: 'The sheet is blank',
    status: 422,
  });
  await expect(take(Promise.resolve({ error: '<html>', response: response(502) }))).rejects.toThrow('<html>');
  await expect(take(Promise.resolve({ response: response(500) }))).rejects.toThrow('gave no reason');
  await expect(take(Promise.reject(new TypeError('failed to fetch')))).rejects.toMatchObject({ status: 0 });
  expect(await take(Promise.resolve({ data: 3, response: response(200) }))).toBe(3);
  interfaceOf({ 'POST /somewhere': { status: 413, body: { detail: 'this is too large' } } });
  await expect(sendFiles('/somewhere', [new File(['x'], 'x.png')])).rejects.toBeInstanceOf(ProblemError);
});

test('a file is known by its path within the folder it came with', () => {
  const file = (name: string, more: object) => Object.assign(new File([], name), more);
  expect(pathOf(file('a.png', {}))).toBe('a.png');
  expect(pathOf(file('a.png', { relativePath: './sc/a.png' }))).toBe('sc/a.png');
  expect(pathOf(file('a.png', { relativePath: '/sc/a.png' }))).toBe('sc/a.png');
});

test('figures carry their unit, and what is no pair is not a number', () => {
  expect(figure(0.35, 2, 'mm')).toBe('0.35 mm');
  expect(pair([1, 2])).toEqual([1, 2]);
  expect(pair(null).every(Number.isNaN)).toBe(true);
});
