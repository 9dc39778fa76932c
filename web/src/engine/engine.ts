// The ink engine: the same Rust code as everywhere, as WebAssembly.
import init, { curve, Engine, gone_over, type Live, PathEngine, proof_names, proof_strokes, strip_mismatch } from '../../engine/prebuilt/eddymist_wasm';
import wasmUrl from '../../engine/prebuilt/eddymist_wasm_bg.wasm?url';
import type { Schemas } from '../api/client';

let ready: Promise<unknown> | null = null;

/** Loads the module once. */
export function loadEngine() {
  ready ??= init({ module_or_path: wasmUrl });
  return ready;
}

/** Six numbers a sample: t, x, y, pressure, azimuth, elevation. */
export type Samples = number[] & {
  /** The view's zoom while it was drawn; 1 where none is given. */
  zoom?: number;
};
export type { Live };
export { Engine, PathEngine };

/** A stroke's own tapers; where it has none, its brush's serve. */
export type Tapers = Schemas['OwnTapers'];
/** What a stroke has of its own, beside its brush. */
export type Own = { tapers?: Tapers; course?: string | null };
/** Stands for them where things are told apart by a text. */
export const taperKey = (t: Tapers | undefined) => `${t?.lead_in_mm ?? ''}/${t?.lead_out_mm ?? ''}`;

/** The page's px in mm: 96 to the inch until a card says otherwise. */
export const MM_PER_PX = 25.4 / 96;

export function makeEngine(brush: Schemas['Brush'], response: number[][] | null | undefined, pxPerMm = 1 / MM_PER_PX, weightFactor = 1, own: Own = {}) {
  const { lead_in_mm, lead_out_mm } = own.tapers ?? {};
  return Engine.weighed(JSON.stringify(brush), new Float64Array((response ?? []).flat()), pxPerMm, weightFactor, lead_in_mm, lead_out_mm, own.course);
}

/** A stroke's paths in mm, each with the opacity that it is laid over the ones before it with. */
export function strokePaths(engine: Engine, samples: Samples): [string, number][] {
  const flat = engine.paths(new Float64Array(samples), samples.zoom ?? 1);
  return Array.from({ length: flat.length / 2 }, (_, i) => [flat[2 * i] ?? '', Number(flat[2 * i + 1] ?? 1)]);
}

/** A stamped stroke as a picture in the brush's colour, to be drawn at x, y in mm; null for other lays. */
export function strokePicture(engine: Engine, samples: Samples, pxPerMm: number, colour: string) {
  const p = engine.picture(new Float64Array(samples), samples.zoom ?? 1, pxPerMm);
  if (!p) return null;
  const alpha = p.alpha();
  const { x, y, width } = p;
  p.free();
  const height = Math.round(alpha.length / width);
  const canvas = new OffscreenCanvas(width, height);
  const c = canvas.getContext('2d');
  if (!c) return null;
  const image = c.createImageData(width, height);
  const rgb = Number.parseInt(colour.slice(1), 16);
  for (let i = 0; i < alpha.length; i++) image.data.set([rgb >> 16, (rgb >> 8) & 255, rgb & 255, alpha[i] ?? 0], 4 * i);
  c.putImageData(image, 0, 0);
  return { canvas, x, y, width: width / pxPerMm, height: height / pxPerMm };
}

export type ProofFigure = { name: string; at: [number, number]; size: [number, number] };

/** Width and height that the proof figures take, mm. */
export const PROOF_MM = [180, 48] as const;

/** The proof figures' strokes where they lie on the sheet, and what they are called. */
export function proof(): { strokes: Samples[]; figures: ProofFigure[] } {
  const strokes: Samples[] = [];
  let one: number[] = [];
  for (const v of proof_strokes()) {
    if (v === Number.POSITIVE_INFINITY) {
      strokes.push(one);
      one = [];
    } else one.push(v);
  }
  const figures = proof_names().map((n) => {
    const [name = '', x, y, w, h] = n.split('\t');
    return { name, at: [Number(x), Number(y)] as [number, number], size: [Number(w), Number(h)] as [number, number] };
  });
  return { strokes, figures };
}

/** How far a strip's edges miss one another where its ends meet, µm; null where there is none, or it is none. */
export function stripMismatch(uri: string | null | undefined): number | null {
  try {
    return uri ? 1000 * strip_mismatch(uri) : null;
  } catch {
    return null;
  }
}

/** A curve as points, for drawing it. */
export function curvePoints(knots: number[][], steps = 80): [number, number][] {
  const flat = curve(new Float64Array(knots.flat()), steps);
  return Array.from({ length: flat.length / 2 }, (_, i) => [flat[2 * i] ?? 0, flat[2 * i + 1] ?? 0]);
}

/** What to do with a stroke that goes over lines. */
export const ADVICE = ['good', 'slower', 'nearer', 'evenly', 'elsewhere'] as const;
export type GoneOver = { offMm: number; advice: (typeof ADVICE)[number]; lines: number[] };

/** A stroke held against the lines that it goes over, mm; null where it is too short to say anything. */
export function goneOver(samples: Samples, lines: number[][][]): GoneOver | null {
  const places = lines.flatMap((l) => [...l.flat(), Number.NaN, Number.NaN]);
  const [offMm, , , advice, ...gone] = gone_over(new Float64Array(samples), samples.zoom ?? 1, new Float64Array(places));
  return offMm === undefined ? null : { offMm, advice: ADVICE[advice ?? 0] ?? 'good', lines: gone };
}
