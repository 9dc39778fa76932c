// The warm-up's exercises in their order, the guides they are drawn along, and what is wrong with a stroke as soon as it is
// drawn.
import type { Schemas } from '../api/client';
import type { Samples } from '../engine/engine';

/** What warm-up and re-check are drawn with: thin at a feather, thick at the hardest. */
export const PLAIN_BRUSH = {
  format: 'eddymist/brush',
  version: 1,
  name: 'warm-up',
  nib: { shape: 'round' },
  weight: [
    [0, 0.2],
    [1, 1.4],
  ],
} as unknown as Schemas['Brush'];

export type Step = {
  exercise: string;
  effort: number | null;
  pace: 'slow' | 'normal' | 'fast' | null;
  title: string;
  says: string;
  count: number;
  /** Without it there is no profile. */
  needed: boolean;
};

const needed = (exercise: string, effort: number | null, title: string, says: string, count: number): Step => ({
  exercise,
  effort,
  pace: exercise === 'effort' ? 'normal' : 'slow',
  title,
  says,
  count,
  needed: true,
});
const more = (exercise: string, pace: Step['pace'], title: string, says: string, count: number): Step => ({
  exercise,
  effort: null,
  pace,
  title,
  says,
  count,
  needed: false,
});

export const STEPS: readonly Step[] = [
  needed('effort', 0, 'Feather', 'the lightest line you can control', 4),
  needed('effort', 0.25, 'Light', 'lighter than you draw', 4),
  needed('effort', 0.5, 'Normal', 'as you draw all day', 4),
  needed('effort', 0.75, 'Firm', 'firmer than you draw', 4),
  needed('effort', 1, 'Hardest', 'the hardest you find comfortable', 4),
  needed('ramp', null, 'Ramp', 'feather at the start, hardest in the middle, feather at the end', 3),
  more('ruled', 'slow', 'Straight edge', 'lay a ruler along the guide and draw slowly along it', 2),
  more('diagonal', 'slow', 'Diagonal, slow', 'along a ruler laid aslant, three seconds a line', 2),
  more('diagonal', 'fast', 'Diagonal, fast', 'the same line again in one second', 2),
  more('flick', 'fast', 'Flicks', 'short strokes, lifted while moving', 4),
  more('dot', 'slow', 'Dots', 'touch, hold for a second, lift', 3),
  more('circle', 'normal', 'Circle', 'one round, in one go', 1),
  more('freehand', 'normal', 'Free line', 'a long line as you would in a drawing', 1),
  more('card', null, 'Card', 'lay a bank card down, trace its long side, then its short side', 2),
  // Behind the others: strokes of a warm-up that was begun before are stored by their step's place.
  more('landing', 'fast', 'Landings', 'touch down while moving, slow down, and rest before you lift', 4),
];

/** Where a stroke of a step is drawn, in shares of the surface: from, to. */
export function guides(step: Step): [number, number, number, number][] {
  if (step.exercise === 'diagonal') return [0, 1, 2].map((k) => [0.2 + 0.2 * k, 0.92, 0.32 + 0.2 * k, 0.08]);
  if (
    step.exercise === 'flick' ||
    step.exercise === 'landing' ||
    step.exercise === 'dot' ||
    step.exercise === 'circle' ||
    step.exercise === 'freehand' ||
    step.exercise === 'card'
  )
    return [];
  return [1, 2, 3, 4].map((k) => [0.1, k / 5, 0.9, k / 5]);
}

/** Why a stroke is not taken, at once; nothing where it is fine. */
export function whatIsWrong(step: Step, s: Samples): string | null {
  const n = s.length;
  const [x0, y0, x1, y1] = [s[1] ?? 0, s[2] ?? 0, s[n - 5] ?? 0, s[n - 4] ?? 0];
  const chord = Math.hypot(x1 - x0, y1 - y0);
  const seconds = ((s[n - 6] ?? 0) - (s[0] ?? 0)) / 1000;
  let way = 0;
  let off = 0;
  for (let i = 6; i + 2 < n; i += 6) {
    const [x, y] = [s[i + 1] ?? 0, s[i + 2] ?? 0];
    way += Math.hypot(x - (s[i - 5] ?? 0), y - (s[i - 4] ?? 0));
    if (chord > 0) off = Math.max(off, Math.abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / chord);
  }
  const lost = ' The stroke was not used.';
  if (step.exercise === 'dot') {
    if (way > 6) return `That was a stroke, not a dot: hold still.${lost}`;
    return seconds < 0.5 ? `That was too short: hold the dot for a second.${lost}` : null;
  }
  if (step.exercise === 'flick') return way < 8 ? `That was too short: a flick of a centimetre or more.${lost}` : null;
  if (step.exercise === 'landing') return way < 8 ? `That was too short: a stroke of a centimetre or more.${lost}` : null;
  if (step.exercise === 'circle') {
    if (way < 40) return `That was too short: a circle of two centimetres or more.${lost}`;
    return chord > 0.25 * way ? `The circle is not closed: come round to where you began.${lost}` : null;
  }
  if (step.exercise === 'freehand') return way < 40 ? `That was too short: draw a long line.${lost}` : null;
  if (chord < 25) return `That was too short to measure: draw along the whole guide.${lost}`;
  if (off > 0.12 * chord + 2) return `That left the line: it wandered ${off.toFixed(0)} mm off.${lost}`;
  if (step.pace === 'slow' && step.exercise !== 'ramp' && chord / Math.max(seconds, 0.01) > 120) return `That was too fast: take three seconds for it.${lost}`;
  return null;
}
