// The beat that lines are drawn to: which one it is by now, and when the next one comes.

/** Beats a bar: four for a slow line, one for a line at normal pace, half of one for a fast one, as the sampler sheet says. */
export const BAR = 4;
export const SHEETS = 60;
export const LEAST = 20;
export const MOST = 180;

/** Which beat of its bar it is, from 0, so many ms after the first, and how many ms remain of it. */
export function beatAt(ms: number, perMinute: number): { beat: number; left: number } {
  const each = 60_000 / Math.min(Math.max(perMinute, LEAST), MOST);
  const n = Math.floor(Math.max(ms, 0) / each);
  return { beat: n % BAR, left: (n + 1) * each - Math.max(ms, 0) };
}
