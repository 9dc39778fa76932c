/* tslint:disable */
/* eslint-disable */

/**
 * A brush and a response, ready to ink.
 */
export class Engine {
    free(): void;
    [Symbol.dispose](): void;
    /**
     * Begins a live stroke.
     */
    begin(zoom: number): Live;
    /**
     * Deviation in mm of the Gaussian that softens every edge.
     */
    blur(): number;
    /**
     * How much a stroke's bends distort the shape that is bent along it (95th percentile); none for other lays.
     */
    distortion(samples: Float64Array | number[]): number | undefined;
    /**
     * `response` holds raw, effort pairs; empty takes raw pressure as effort. A pixel lay is one of `px_per_mm`.
     */
    constructor(brush_json: string, response: Float64Array | number[], px_per_mm: number);
    /**
     * The nib at an effort as it would stand here, about the origin, as polygons in mm, each closed by a pair of NaN: the pointer's ring.
     */
    nib(pressure: number, azimuth: number, elevation: number): Float64Array;
    /**
     * The least opacity that a stroke can have: live ink is drawn with it.
     */
    opacity(): number;
    /**
     * A whole stroke (six numbers a sample): SVG path data in mm, one after the other, each opacity after its path.
     */
    paths(samples: Float64Array | number[], zoom: number): string[];
    /**
     * A whole stroke of a stamped lay at so many px to the mm; nothing for other lays, or where nothing is inked.
     */
    picture(samples: Float64Array | number[], zoom: number, px_per_mm: number): InkPicture | undefined;
    /**
     * The same with a factor on the brush's weight, with tapers of the stroke's own, mm, and pressure along it in place of the pen's.
     */
    static weighed(brush_json: string, response: Float64Array | number[], px_per_mm: number, factor: number, lead_in_mm?: number | null, lead_out_mm?: number | null, course?: string | null): Engine;
    /**
     * The mean width of a stroke's middle, mm, across the way it goes.
     */
    weight(samples: Float64Array | number[], zoom: number): number;
    /**
     * A stroke whose point `k` is pressed so that the line is so wide there, mm, or as near to it as pressure brings it.
     */
    widened(samples: Float64Array | number[], zoom: number, points: Uint32Array | number[], k: number, width_mm: number): Float64Array;
    /**
     * The line's width at each sample, mm.
     */
    widths(samples: Float64Array | number[], zoom: number): Float64Array;
}

/**
 * Ink as a picture: where its top left corner lies, mm, and its coverage 0…255 row by row.
 */
export class InkPicture {
    private constructor();
    free(): void;
    [Symbol.dispose](): void;
    /**
     * Coverage of every pixel.
     */
    alpha(): Uint8Array;
    width: number;
    x: number;
    y: number;
}

/**
 * A stroke while it is drawn.
 */
export class Live {
    private constructor();
    free(): void;
    [Symbol.dispose](): void;
    /**
     * What samples that the browser only foretells would add (six numbers each): the stroke stays as it is.
     */
    ahead(samples: Float64Array | number[]): Float64Array;
    /**
     * Takes one sample; returns the polygons that it adds, each closed by a pair of NaN.
     */
    push(t_ms: number, x: number, y: number, pressure: number, azimuth: number, elevation: number): Float64Array;
}

/**
 * A brush that inks bare paths by a course.
 */
export class PathEngine {
    free(): void;
    [Symbol.dispose](): void;
    /**
     * A path's outline as SVG path data: x, y pairs in mm, within a tolerance in mm.
     */
    ink(points: Float64Array | number[], reversed: boolean, scale: number, tolerance_mm: number): string;
    /**
     * `course` is rise, swell, fall, even, or JSON knots; `factor` is on the weight; tapers are the line's own, mm.
     */
    constructor(brush_json: string, course: string, factor: number, lead_in_mm?: number | null, lead_out_mm?: number | null);
}

/**
 * The value of the monotone cubic through x, y knots at `steps` places, as x, y pairs: for drawing a curve.
 */
export function curve(knots: Float64Array | number[], steps: number): Float64Array;

/**
 * A stroke held against lines that it goes over (their places, mm, a pair of NaN after each line): how far off it lies, mm, the hand's speed, mm/s,
 * its spread over that, what to do (0 good, 1 slower, 2 nearer, 3 evenly, 4 on a line), then the lines that were gone over; nothing where it is too
 * short to say.
 */
export function gone_over(samples: Float64Array | number[], zoom: number, places: Float64Array | number[]): Float64Array;

/**
 * Rings (x, y pairs, each ring ended by NaN) laid level as SVG path data, and by how much they were turned, degrees
 * counter-clockwise.
 */
export function level_rings(flat: Float64Array | number[]): string[];

/**
 * A stroke with its point `k` at another place, mm.
 */
export function nudged(samples: Float64Array | number[], points: Uint32Array | number[], k: number, x: number, y: number): Float64Array;

/**
 * Names of the proof figures, with where each stands and its size, mm: `name\tx\ty\tw\th`.
 */
export function proof_names(): string[];

/**
 * Strokes of all proof figures where they lie on the sheet, six numbers a sample, each stroke ended by one infinity.
 */
export function proof_strokes(): Float64Array;

/**
 * A stroke pulled by its place nearest to x, y (mm) toward another; nothing is moved further along it than `reach` mm.
 */
export function pull(samples: Float64Array | number[], from: Float64Array | number[], to: Float64Array | number[], reach: number): Float64Array;

/**
 * A stroke put right: `how` is `straight`, `arc` or `reversed`; six numbers a sample come in and go out.
 */
export function put_right(samples: Float64Array | number[], how: string): Float64Array;

/**
 * A shape's rings, its length 1 and its middle at 0: x, y pairs, each ring ended by NaN.
 */
export function shape_rings(path: string): Float64Array;

/**
 * Azimuth (counter-clockwise) and elevation in degrees of a stylus' tilts.
 */
export function spherical(tilt_x_deg: number, tilt_y_deg: number): Float64Array;

/**
 * How far a strip's edges miss one another where its ends meet, mm.
 */
export function strip_mismatch(uri: string): number;

/**
 * The samples by which a stroke is held, so that it lies no further than `tolerance_mm` from them.
 */
export function stroke_points(samples: Float64Array | number[], tolerance_mm: number): Uint32Array;

/**
 * A picture of the page, dark and light, as a tooth whose tile is so wide, mm: its resolution stated in it.
 */
export function tooth_of(uri: string, tile_mm: number): string;

/**
 * A stroke without its point `k`.
 */
export function without_point(samples: Float64Array | number[], points: Uint32Array | number[], k: number): Float64Array;

export type InitInput = RequestInfo | URL | Response | BufferSource | WebAssembly.Module;

export interface InitOutput {
    readonly memory: WebAssembly.Memory;
    readonly __wbg_engine_free: (a: number, b: number) => void;
    readonly __wbg_get_inkpicture_width: (a: number) => number;
    readonly __wbg_get_inkpicture_x: (a: number) => number;
    readonly __wbg_get_inkpicture_y: (a: number) => number;
    readonly __wbg_inkpicture_free: (a: number, b: number) => void;
    readonly __wbg_live_free: (a: number, b: number) => void;
    readonly __wbg_pathengine_free: (a: number, b: number) => void;
    readonly __wbg_set_inkpicture_width: (a: number, b: number) => void;
    readonly __wbg_set_inkpicture_x: (a: number, b: number) => void;
    readonly __wbg_set_inkpicture_y: (a: number, b: number) => void;
    readonly curve: (a: number, b: number, c: number) => [number, number, number, number];
    readonly engine_begin: (a: number, b: number) => number;
    readonly engine_blur: (a: number) => number;
    readonly engine_distortion: (a: number, b: number, c: number) => [number, number];
    readonly engine_new: (a: number, b: number, c: number, d: number, e: number) => [number, number, number];
    readonly engine_nib: (a: number, b: number, c: number, d: number) => [number, number];
    readonly engine_opacity: (a: number) => number;
    readonly engine_paths: (a: number, b: number, c: number, d: number) => [number, number];
    readonly engine_picture: (a: number, b: number, c: number, d: number, e: number) => number;
    readonly engine_weighed: (a: number, b: number, c: number, d: number, e: number, f: number, g: number, h: number, i: number, j: number, k: number, l: number) => [number, number, number];
    readonly engine_weight: (a: number, b: number, c: number, d: number) => number;
    readonly engine_widened: (a: number, b: number, c: number, d: number, e: number, f: number, g: number, h: number) => [number, number];
    readonly engine_widths: (a: number, b: number, c: number, d: number) => [number, number];
    readonly gone_over: (a: number, b: number, c: number, d: number, e: number) => [number, number];
    readonly inkpicture_alpha: (a: number) => [number, number];
    readonly level_rings: (a: number, b: number) => [number, number];
    readonly live_ahead: (a: number, b: number, c: number) => [number, number];
    readonly live_push: (a: number, b: number, c: number, d: number, e: number, f: number, g: number) => [number, number];
    readonly nudged: (a: number, b: number, c: number, d: number, e: number, f: number, g: number) => [number, number];
    readonly pathengine_ink: (a: number, b: number, c: number, d: number, e: number, f: number) => [number, number];
    readonly pathengine_new: (a: number, b: number, c: number, d: number, e: number, f: number, g: number, h: number, i: number) => [number, number, number];
    readonly proof_names: () => [number, number];
    readonly proof_strokes: () => [number, number];
    readonly pull: (a: number, b: number, c: number, d: number, e: number, f: number, g: number) => [number, number];
    readonly put_right: (a: number, b: number, c: number, d: number) => [number, number];
    readonly shape_rings: (a: number, b: number) => [number, number, number, number];
    readonly spherical: (a: number, b: number) => [number, number];
    readonly strip_mismatch: (a: number, b: number) => [number, number, number];
    readonly stroke_points: (a: number, b: number, c: number) => [number, number];
    readonly tooth_of: (a: number, b: number, c: number) => [number, number, number, number];
    readonly without_point: (a: number, b: number, c: number, d: number, e: number) => [number, number];
    readonly __wbindgen_externrefs: WebAssembly.Table;
    readonly __wbindgen_malloc: (a: number, b: number) => number;
    readonly __wbindgen_free: (a: number, b: number, c: number) => void;
    readonly __externref_table_dealloc: (a: number) => void;
    readonly __wbindgen_realloc: (a: number, b: number, c: number, d: number) => number;
    readonly __externref_drop_slice: (a: number, b: number) => void;
    readonly __wbindgen_start: () => void;
}

export type SyncInitInput = BufferSource | WebAssembly.Module;

/**
 * Instantiates the given `module`, which can either be bytes or
 * a precompiled `WebAssembly.Module`.
 *
 * @param {{ module: SyncInitInput }} module - Passing `SyncInitInput` directly is deprecated.
 *
 * @returns {InitOutput}
 */
export function initSync(module: { module: SyncInitInput } | SyncInitInput): InitOutput;

/**
 * If `module_or_path` is {RequestInfo} or {URL}, makes a request and
 * for everything else, calls `WebAssembly.instantiate` directly.
 *
 * @param {{ module_or_path: InitInput | Promise<InitInput> }} module_or_path - Passing `InitInput` directly is deprecated.
 *
 * @returns {Promise<InitOutput>}
 */
export default function __wbg_init (module_or_path: { module_or_path: InitInput | Promise<InitInput> } | InitInput | Promise<InitInput>): Promise<InitOutput>;
