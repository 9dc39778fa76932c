// The simulated hand's strokes for the try lane: a swell, a hook and hatching.
import type { Samples } from '../engine/engine';

/** Places along a stroke: t ms, x, y mm, pressure. */
const along = (n: number, at: (u: number) => [number, number, number, number]): Samples =>
  Array.from({ length: n }, (_, i) => at(i / (n - 1))).flatMap((s) => [...s, Number.NaN, Number.NaN]);

export const SIMULATED: Samples[] = [
  along(160, (u) => [u * 1200, 14 + u * 84, 18 - 12 * Math.sin(u * 6.2), 0.12 + 0.8 * Math.sin(Math.PI * u) ** 2]),
  along(120, (u) => [u * 800, 118 + 34 * u + 6 * Math.sin(u * 9), 25 - 17 * u + 6 * Math.sin(u * 5), 0.9 - 0.75 * u]),
  ...Array.from({ length: 8 }, (_, k) => along(40, (u) => [u * 160, 172 + 5 * k + 9 * u, 31 - 26 * u, 0.6 * (1 - u) + 0.1])),
];
