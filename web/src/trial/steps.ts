// Steps of a trial page's work, back and forth: each is where strokes went out and what came in their place.
import type { Schemas } from '../api/client';

export type Stroke = Schemas['TrialStroke'];
type Step = { at: number; out: Stroke[]; in: Stroke[] };
/** Steps with a sign of the strokes that they lead to: of another page's strokes they say nothing. */
export type Steps = { past: Step[]; next: Step[]; sign: string };
export const NO_STEPS: Steps = { past: [], next: [], sign: '' };
const MOST = 300;
/** Along a line a pull reaches this far, mm. */
export const REACH_MM = 12;

/** Tells one page's strokes from another's. */
export function signOf(strokes: Stroke[]) {
  let h = strokes.length;
  for (const s of strokes) {
    h = (Math.imul(h, 31) + s.samples.length) | 0;
    h = (Math.imul(h, 31) + [...(s.course ?? '')].reduce((sum, c) => (Math.imul(sum, 31) + c.charCodeAt(0)) | 0, 0)) | 0;
    h = (Math.imul(h, 31) + Math.round(1000 * ((s.tapers?.lead_in_mm ?? -1) + 7 * (s.tapers?.lead_out_mm ?? -1)))) | 0;
    h = (Math.imul(h, 31) + Math.round(1000 * ((s.samples[1] ?? 0) + (s.samples[s.samples.length - 4] ?? 0) + (s.weight_factor ?? 1)))) | 0;
  }
  return String(h);
}

/** What leads from one list of strokes to another. */
export function step(from: Stroke[], to: Stroke[]): Step {
  let at = 0;
  while (at < from.length && at < to.length && from[at] === to[at]) at++;
  let end = 0;
  while (end < from.length - at && end < to.length - at && from[from.length - 1 - end] === to[to.length - 1 - end]) end++;
  return { at, out: from.slice(at, from.length - end), in: to.slice(at, to.length - end) };
}

const applied = (strokes: Stroke[], s: Step) => [...strokes.slice(0, s.at), ...s.in, ...strokes.slice(s.at + s.out.length)];
const turned = (s: Step): Step => ({ at: s.at, out: s.in, in: s.out });

export function done(steps: Steps, from: Stroke[], to: Stroke[]): Steps {
  return { past: [...steps.past.slice(1 - MOST), step(from, to)], next: [], sign: signOf(to) };
}

/** One step back: the strokes then, and the steps; null where there is none. */
export function back(steps: Steps, strokes: Stroke[]): [Stroke[], Steps] | null {
  const last = steps.past[steps.past.length - 1];
  if (!last) return null;
  const to = applied(strokes, turned(last));
  return [to, { past: steps.past.slice(0, -1), next: [last, ...steps.next], sign: signOf(to) }];
}

/** One step forth again. */
export function forth(steps: Steps, strokes: Stroke[]): [Stroke[], Steps] | null {
  const [first, ...rest] = steps.next;
  if (!first) return null;
  const to = applied(strokes, first);
  return [to, { past: [...steps.past, first], next: rest, sign: signOf(to) }];
}
