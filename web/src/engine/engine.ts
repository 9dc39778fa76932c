// The ink engine: the same Rust code as everywhere, as WebAssembly.
import init, { curve, Engine, type Live } from '../../engine/prebuilt/eddymist_wasm';
import wasmUrl from '../../engine/prebuilt/eddymist_wasm_bg.wasm?url';
import type { Schemas } from '../api/client';

let ready: Promise<unknown> | null = null;

/** Loads the module once. */
export function loadEngine() {
  ready ??= init({ module_or_path: wasmUrl });
  return ready;
}

/** Six numbers a sample: t, x, y, pressure, azimuth, elevation. */
export type Samples = number[];
export type { Live };
export { Engine };

export function makeEngine(brush: Schemas['Brush'], response: number[][] | null | undefined) {
  return new Engine(JSON.stringify(brush), new Float64Array((response ?? []).flat()));
}

/** A stroke's paths in mm, each with the opacity that it is laid over the ones before it with. */
export function strokePaths(engine: Engine, samples: Samples): [string, number][] {
  const flat = engine.paths(new Float64Array(samples), 1);
  return Array.from({ length: flat.length / 2 }, (_, i) => [flat[2 * i] ?? '', Number(flat[2 * i + 1] ?? 1)]);
}

/** A curve as points, for drawing it. */
export function curvePoints(knots: number[][], steps = 80): [number, number][] {
  const flat = curve(new Float64Array(knots.flat()), steps);
  return Array.from({ length: flat.length / 2 }, (_, i) => [flat[2 * i] ?? 0, flat[2 * i + 1] ?? 0]);
}
