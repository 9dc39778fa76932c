/* @ts-self-types="./eddymist_wasm.d.ts" */

/**
 * A brush and a response, ready to ink.
 */
export class Engine {
    static __wrap(ptr) {
        const obj = Object.create(Engine.prototype);
        obj.__wbg_ptr = ptr;
        EngineFinalization.register(obj, obj.__wbg_ptr, obj);
        return obj;
    }
    __destroy_into_raw() {
        const ptr = this.__wbg_ptr;
        this.__wbg_ptr = 0;
        EngineFinalization.unregister(this);
        return ptr;
    }
    free() {
        const ptr = this.__destroy_into_raw();
        wasm.__wbg_engine_free(ptr, 0);
    }
    /**
     * Begins a live stroke.
     * @param {number} zoom
     * @returns {Live}
     */
    begin(zoom) {
        const ret = wasm.engine_begin(this.__wbg_ptr, zoom);
        return Live.__wrap(ret);
    }
    /**
     * Deviation in mm of the Gaussian that softens every edge.
     * @returns {number}
     */
    blur() {
        const ret = wasm.engine_blur(this.__wbg_ptr);
        return ret;
    }
    /**
     * How much a stroke's bends distort the shape that is bent along it (95th percentile); none for other lays.
     * @param {Float64Array | number[]} samples
     * @returns {number | undefined}
     */
    distortion(samples) {
        const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.engine_distortion(this.__wbg_ptr, ptr0, len0);
        return ret[0] === 0 ? undefined : ret[1];
    }
    /**
     * `response` holds raw, effort pairs; empty takes raw pressure as effort. A pixel lay is one of `px_per_mm`.
     * @param {string} brush_json
     * @param {Float64Array | number[]} response
     * @param {number} px_per_mm
     */
    constructor(brush_json, response, px_per_mm) {
        const val3 = +px_per_mm;
        let ptr0, len0, ptr1, len1;
        try {
            ptr0 = passStringToWasm0(brush_json, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
            len0 = WASM_VECTOR_LEN;
            ptr1 = passArrayF64ToWasm0(response, wasm.__wbindgen_malloc);
            len1 = WASM_VECTOR_LEN;
        } catch (e) {
            if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 8, 8); }
            if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 1, 1); }
            throw e;
        }
        const ret = wasm.engine_new(ptr0, len0, ptr1, len1, val3);
        if (ret[2]) {
            throw takeFromExternrefTable0(ret[1]);
        }
        this.__wbg_ptr = ret[0];
        EngineFinalization.register(this, this.__wbg_ptr, this);
        return this;
    }
    /**
     * The nib at an effort as it would stand here, about the origin, as polygons in mm, each closed by a pair of NaN: the pointer's ring.
     * @param {number} pressure
     * @param {number} azimuth
     * @param {number} elevation
     * @returns {Float64Array}
     */
    nib(pressure, azimuth, elevation) {
        const ret = wasm.engine_nib(this.__wbg_ptr, pressure, azimuth, elevation);
        var v1 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
        wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
        return v1;
    }
    /**
     * The least opacity that a stroke can have: live ink is drawn with it.
     * @returns {number}
     */
    opacity() {
        const ret = wasm.engine_opacity(this.__wbg_ptr);
        return ret;
    }
    /**
     * A whole stroke (six numbers a sample): SVG path data in mm, one after the other, each opacity after its path.
     * @param {Float64Array | number[]} samples
     * @param {number} zoom
     * @returns {string[]}
     */
    paths(samples, zoom) {
        const val2 = +zoom;
        const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.engine_paths(this.__wbg_ptr, ptr0, len0, val2);
        var v3 = getArrayJsValueFromWasm0(ret[0], ret[1]);
        wasm.__wbindgen_free(ret[0], ret[1] * 4, 4);
        return v3;
    }
    /**
     * A whole stroke of a stamped lay at so many px to the mm; nothing for other lays, or where nothing is inked.
     * @param {Float64Array | number[]} samples
     * @param {number} zoom
     * @param {number} px_per_mm
     * @returns {InkPicture | undefined}
     */
    picture(samples, zoom, px_per_mm) {
        const val2 = +zoom;
        const val3 = +px_per_mm;
        const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.engine_picture(this.__wbg_ptr, ptr0, len0, val2, val3);
        return ret === 0 ? undefined : InkPicture.__wrap(ret);
    }
    /**
     * The same with a factor on the brush's weight, with tapers of the stroke's own, mm, and pressure along it in place of the pen's.
     * @param {string} brush_json
     * @param {Float64Array | number[]} response
     * @param {number} px_per_mm
     * @param {number} factor
     * @param {number | null} [lead_in_mm]
     * @param {number | null} [lead_out_mm]
     * @param {string | null} [course]
     * @returns {Engine}
     */
    static weighed(brush_json, response, px_per_mm, factor, lead_in_mm, lead_out_mm, course) {
        const val4 = +px_per_mm;
        const val5 = +factor;
        const val6 = +(isLikeNone(lead_in_mm) ? 0 : lead_in_mm);
        const val7 = +(isLikeNone(lead_out_mm) ? 0 : lead_out_mm);
        let ptr0, len0, ptr1, len1, ptr2, len2;
        try {
            ptr0 = passStringToWasm0(brush_json, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
            len0 = WASM_VECTOR_LEN;
            ptr1 = passArrayF64ToWasm0(response, wasm.__wbindgen_malloc);
            len1 = WASM_VECTOR_LEN;
            ptr2 = isLikeNone(course) ? 0 : passStringToWasm0(course, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
            len2 = WASM_VECTOR_LEN;
        } catch (e) {
            if (ptr2) { wasm.__wbindgen_free(ptr2, len2 * 1, 1); }
            if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 8, 8); }
            if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 1, 1); }
            throw e;
        }
        const ret = wasm.engine_weighed(ptr0, len0, ptr1, len1, val4, val5, !isLikeNone(lead_in_mm), val6, !isLikeNone(lead_out_mm), val7, ptr2, len2);
        if (ret[2]) {
            throw takeFromExternrefTable0(ret[1]);
        }
        return Engine.__wrap(ret[0]);
    }
    /**
     * The mean width of a stroke's middle, mm, across the way it goes.
     * @param {Float64Array | number[]} samples
     * @param {number} zoom
     * @returns {number}
     */
    weight(samples, zoom) {
        const val2 = +zoom;
        const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.engine_weight(this.__wbg_ptr, ptr0, len0, val2);
        return ret;
    }
    /**
     * A stroke whose point `k` is pressed so that the line is so wide there, mm, or as near to it as pressure brings it.
     * @param {Float64Array | number[]} samples
     * @param {number} zoom
     * @param {Uint32Array | number[]} points
     * @param {number} k
     * @param {number} width_mm
     * @returns {Float64Array}
     */
    widened(samples, zoom, points, k, width_mm) {
        const val3 = +zoom;
        const val4 = +k;
        const val5 = +width_mm;
        let ptr0, len0, ptr1, len1;
        try {
            ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
            len0 = WASM_VECTOR_LEN;
            ptr1 = passArray32ToWasm0(points, wasm.__wbindgen_malloc);
            len1 = WASM_VECTOR_LEN;
        } catch (e) {
            if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 4, 4); }
            if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 8, 8); }
            throw e;
        }
        const ret = wasm.engine_widened(this.__wbg_ptr, ptr0, len0, val3, ptr1, len1, val4, val5);
        var v6 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
        wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
        return v6;
    }
    /**
     * The line's width at each sample, mm.
     * @param {Float64Array | number[]} samples
     * @param {number} zoom
     * @returns {Float64Array}
     */
    widths(samples, zoom) {
        const val2 = +zoom;
        const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.engine_widths(this.__wbg_ptr, ptr0, len0, val2);
        var v3 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
        wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
        return v3;
    }
}
if (Symbol.dispose) Engine.prototype[Symbol.dispose] = Engine.prototype.free;

/**
 * Ink as a picture: where its top left corner lies, mm, and its coverage 0…255 row by row.
 */
export class InkPicture {
    static __wrap(ptr) {
        const obj = Object.create(InkPicture.prototype);
        obj.__wbg_ptr = ptr;
        InkPictureFinalization.register(obj, obj.__wbg_ptr, obj);
        return obj;
    }
    __destroy_into_raw() {
        const ptr = this.__wbg_ptr;
        this.__wbg_ptr = 0;
        InkPictureFinalization.unregister(this);
        return ptr;
    }
    free() {
        const ptr = this.__destroy_into_raw();
        wasm.__wbg_inkpicture_free(ptr, 0);
    }
    /**
     * @returns {number}
     */
    get width() {
        const ret = wasm.__wbg_get_inkpicture_width(this.__wbg_ptr);
        return ret >>> 0;
    }
    /**
     * @returns {number}
     */
    get x() {
        const ret = wasm.__wbg_get_inkpicture_x(this.__wbg_ptr);
        return ret;
    }
    /**
     * @returns {number}
     */
    get y() {
        const ret = wasm.__wbg_get_inkpicture_y(this.__wbg_ptr);
        return ret;
    }
    /**
     * Coverage of every pixel.
     * @returns {Uint8Array}
     */
    alpha() {
        const ret = wasm.inkpicture_alpha(this.__wbg_ptr);
        var v1 = getArrayU8FromWasm0(ret[0], ret[1]).slice();
        wasm.__wbindgen_free(ret[0], ret[1] * 1, 1);
        return v1;
    }
    /**
     * @param {number} arg0
     */
    set width(arg0) {
        wasm.__wbg_set_inkpicture_width(this.__wbg_ptr, arg0);
    }
    /**
     * @param {number} arg0
     */
    set x(arg0) {
        wasm.__wbg_set_inkpicture_x(this.__wbg_ptr, arg0);
    }
    /**
     * @param {number} arg0
     */
    set y(arg0) {
        wasm.__wbg_set_inkpicture_y(this.__wbg_ptr, arg0);
    }
}
if (Symbol.dispose) InkPicture.prototype[Symbol.dispose] = InkPicture.prototype.free;

/**
 * A stroke while it is drawn.
 */
export class Live {
    static __wrap(ptr) {
        const obj = Object.create(Live.prototype);
        obj.__wbg_ptr = ptr;
        LiveFinalization.register(obj, obj.__wbg_ptr, obj);
        return obj;
    }
    __destroy_into_raw() {
        const ptr = this.__wbg_ptr;
        this.__wbg_ptr = 0;
        LiveFinalization.unregister(this);
        return ptr;
    }
    free() {
        const ptr = this.__destroy_into_raw();
        wasm.__wbg_live_free(ptr, 0);
    }
    /**
     * What samples that the browser only foretells would add (six numbers each): the stroke stays as it is.
     * @param {Float64Array | number[]} samples
     * @returns {Float64Array}
     */
    ahead(samples) {
        const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.live_ahead(this.__wbg_ptr, ptr0, len0);
        var v2 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
        wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
        return v2;
    }
    /**
     * Takes one sample; returns the polygons that it adds, each closed by a pair of NaN.
     * @param {number} t_ms
     * @param {number} x
     * @param {number} y
     * @param {number} pressure
     * @param {number} azimuth
     * @param {number} elevation
     * @returns {Float64Array}
     */
    push(t_ms, x, y, pressure, azimuth, elevation) {
        const ret = wasm.live_push(this.__wbg_ptr, t_ms, x, y, pressure, azimuth, elevation);
        var v1 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
        wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
        return v1;
    }
}
if (Symbol.dispose) Live.prototype[Symbol.dispose] = Live.prototype.free;

/**
 * A brush that inks bare paths by a course.
 */
export class PathEngine {
    __destroy_into_raw() {
        const ptr = this.__wbg_ptr;
        this.__wbg_ptr = 0;
        PathEngineFinalization.unregister(this);
        return ptr;
    }
    free() {
        const ptr = this.__destroy_into_raw();
        wasm.__wbg_pathengine_free(ptr, 0);
    }
    /**
     * A path's outline as SVG path data: x, y pairs in mm, within a tolerance in mm.
     * @param {Float64Array | number[]} points
     * @param {boolean} reversed
     * @param {number} scale
     * @param {number} tolerance_mm
     * @returns {string}
     */
    ink(points, reversed, scale, tolerance_mm) {
        let deferred5_0;
        let deferred5_1;
        try {
            const val2 = +reversed;
            const val3 = +scale;
            const val4 = +tolerance_mm;
            const ptr0 = passArrayF64ToWasm0(points, wasm.__wbindgen_malloc);
            const len0 = WASM_VECTOR_LEN;
            const ret = wasm.pathengine_ink(this.__wbg_ptr, ptr0, len0, val2, val3, val4);
            deferred5_0 = ret[0];
            deferred5_1 = ret[1];
            return getStringFromWasm0(ret[0], ret[1]);
        } finally {
            wasm.__wbindgen_free(deferred5_0, deferred5_1, 1);
        }
    }
    /**
     * `course` is rise, swell, fall, even, or JSON knots; `factor` is on the weight; tapers are the line's own, mm.
     * @param {string} brush_json
     * @param {string} course
     * @param {number} factor
     * @param {number | null} [lead_in_mm]
     * @param {number | null} [lead_out_mm]
     */
    constructor(brush_json, course, factor, lead_in_mm, lead_out_mm) {
        const val3 = +factor;
        const val4 = +(isLikeNone(lead_in_mm) ? 0 : lead_in_mm);
        const val5 = +(isLikeNone(lead_out_mm) ? 0 : lead_out_mm);
        let ptr0, len0, ptr1, len1;
        try {
            ptr0 = passStringToWasm0(brush_json, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
            len0 = WASM_VECTOR_LEN;
            ptr1 = passStringToWasm0(course, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
            len1 = WASM_VECTOR_LEN;
        } catch (e) {
            if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 1, 1); }
            if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 1, 1); }
            throw e;
        }
        const ret = wasm.pathengine_new(ptr0, len0, ptr1, len1, val3, !isLikeNone(lead_in_mm), val4, !isLikeNone(lead_out_mm), val5);
        if (ret[2]) {
            throw takeFromExternrefTable0(ret[1]);
        }
        this.__wbg_ptr = ret[0];
        PathEngineFinalization.register(this, this.__wbg_ptr, this);
        return this;
    }
}
if (Symbol.dispose) PathEngine.prototype[Symbol.dispose] = PathEngine.prototype.free;

/**
 * The value of the monotone cubic through x, y knots at `steps` places, as x, y pairs: for drawing a curve.
 * @param {Float64Array | number[]} knots
 * @param {number} steps
 * @returns {Float64Array}
 */
export function curve(knots, steps) {
    const val2 = +steps;
    const ptr0 = passArrayF64ToWasm0(knots, wasm.__wbindgen_malloc);
    const len0 = WASM_VECTOR_LEN;
    const ret = wasm.curve(ptr0, len0, val2);
    if (ret[3]) {
        throw takeFromExternrefTable0(ret[2]);
    }
    var v3 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v3;
}

/**
 * A stroke held against lines that it goes over (their places, mm, a pair of NaN after each line): how far off it lies, mm, the hand's speed, mm/s,
 * its spread over that, what to do (0 good, 1 slower, 2 nearer, 3 evenly, 4 on a line), then the lines that were gone over; nothing where it is too
 * short to say.
 * @param {Float64Array | number[]} samples
 * @param {number} zoom
 * @param {Float64Array | number[]} places
 * @returns {Float64Array}
 */
export function gone_over(samples, zoom, places) {
    const val3 = +zoom;
    let ptr0, len0, ptr1, len1;
    try {
        ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        len0 = WASM_VECTOR_LEN;
        ptr1 = passArrayF64ToWasm0(places, wasm.__wbindgen_malloc);
        len1 = WASM_VECTOR_LEN;
    } catch (e) {
        if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 8, 8); }
        if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 8, 8); }
        throw e;
    }
    const ret = wasm.gone_over(ptr0, len0, val3, ptr1, len1);
    var v4 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v4;
}

/**
 * Rings (x, y pairs, each ring ended by NaN) laid level as SVG path data, and by how much they were turned, degrees
 * counter-clockwise.
 * @param {Float64Array | number[]} flat
 * @returns {string[]}
 */
export function level_rings(flat) {
    const ptr0 = passArrayF64ToWasm0(flat, wasm.__wbindgen_malloc);
    const len0 = WASM_VECTOR_LEN;
    const ret = wasm.level_rings(ptr0, len0);
    var v2 = getArrayJsValueFromWasm0(ret[0], ret[1]);
    wasm.__wbindgen_free(ret[0], ret[1] * 4, 4);
    return v2;
}

/**
 * A stroke with its point `k` at another place, mm.
 * @param {Float64Array | number[]} samples
 * @param {Uint32Array | number[]} points
 * @param {number} k
 * @param {number} x
 * @param {number} y
 * @returns {Float64Array}
 */
export function nudged(samples, points, k, x, y) {
    const val3 = +k;
    const val4 = +x;
    const val5 = +y;
    let ptr0, len0, ptr1, len1;
    try {
        ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        len0 = WASM_VECTOR_LEN;
        ptr1 = passArray32ToWasm0(points, wasm.__wbindgen_malloc);
        len1 = WASM_VECTOR_LEN;
    } catch (e) {
        if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 4, 4); }
        if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 8, 8); }
        throw e;
    }
    const ret = wasm.nudged(ptr0, len0, ptr1, len1, val3, val4, val5);
    var v6 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v6;
}

/**
 * Names of the proof figures, with where each stands and its size, mm: `name\tx\ty\tw\th`.
 * @returns {string[]}
 */
export function proof_names() {
    const ret = wasm.proof_names();
    var v1 = getArrayJsValueFromWasm0(ret[0], ret[1]);
    wasm.__wbindgen_free(ret[0], ret[1] * 4, 4);
    return v1;
}

/**
 * Strokes of all proof figures where they lie on the sheet, six numbers a sample, each stroke ended by one infinity.
 * @returns {Float64Array}
 */
export function proof_strokes() {
    const ret = wasm.proof_strokes();
    var v1 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v1;
}

/**
 * A stroke pulled by its place nearest to x, y (mm) toward another; nothing is moved further along it than `reach` mm.
 * @param {Float64Array | number[]} samples
 * @param {Float64Array | number[]} from
 * @param {Float64Array | number[]} to
 * @param {number} reach
 * @returns {Float64Array}
 */
export function pull(samples, from, to, reach) {
    const val4 = +reach;
    let ptr0, len0, ptr1, len1, ptr2, len2;
    try {
        ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        len0 = WASM_VECTOR_LEN;
        ptr1 = passArrayF64ToWasm0(from, wasm.__wbindgen_malloc);
        len1 = WASM_VECTOR_LEN;
        ptr2 = passArrayF64ToWasm0(to, wasm.__wbindgen_malloc);
        len2 = WASM_VECTOR_LEN;
    } catch (e) {
        if (ptr2) { wasm.__wbindgen_free(ptr2, len2 * 8, 8); }
        if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 8, 8); }
        if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 8, 8); }
        throw e;
    }
    const ret = wasm.pull(ptr0, len0, ptr1, len1, ptr2, len2, val4);
    var v5 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v5;
}

/**
 * A stroke put right: `how` is `straight`, `arc` or `reversed`; six numbers a sample come in and go out.
 * @param {Float64Array | number[]} samples
 * @param {string} how
 * @returns {Float64Array}
 */
export function put_right(samples, how) {
    let ptr0, len0, ptr1, len1;
    try {
        ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        len0 = WASM_VECTOR_LEN;
        ptr1 = passStringToWasm0(how, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
        len1 = WASM_VECTOR_LEN;
    } catch (e) {
        if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 1, 1); }
        if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 8, 8); }
        throw e;
    }
    const ret = wasm.put_right(ptr0, len0, ptr1, len1);
    var v3 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v3;
}

/**
 * A shape's rings, its length 1 and its middle at 0: x, y pairs, each ring ended by NaN.
 * @param {string} path
 * @returns {Float64Array}
 */
export function shape_rings(path) {
    const ptr0 = passStringToWasm0(path, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
    const len0 = WASM_VECTOR_LEN;
    const ret = wasm.shape_rings(ptr0, len0);
    if (ret[3]) {
        throw takeFromExternrefTable0(ret[2]);
    }
    var v2 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v2;
}

/**
 * Azimuth (counter-clockwise) and elevation in degrees of a stylus' tilts.
 * @param {number} tilt_x_deg
 * @param {number} tilt_y_deg
 * @returns {Float64Array}
 */
export function spherical(tilt_x_deg, tilt_y_deg) {
    const ret = wasm.spherical(tilt_x_deg, tilt_y_deg);
    var v1 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v1;
}

/**
 * How far a strip's edges miss one another where its ends meet, mm.
 * @param {string} uri
 * @returns {number}
 */
export function strip_mismatch(uri) {
    const ptr0 = passStringToWasm0(uri, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
    const len0 = WASM_VECTOR_LEN;
    const ret = wasm.strip_mismatch(ptr0, len0);
    if (ret[2]) {
        throw takeFromExternrefTable0(ret[1]);
    }
    return ret[0];
}

/**
 * The samples by which a stroke is held, so that it lies no further than `tolerance_mm` from them.
 * @param {Float64Array | number[]} samples
 * @param {number} tolerance_mm
 * @returns {Uint32Array}
 */
export function stroke_points(samples, tolerance_mm) {
    const val2 = +tolerance_mm;
    const ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
    const len0 = WASM_VECTOR_LEN;
    const ret = wasm.stroke_points(ptr0, len0, val2);
    var v3 = getArrayU32FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 4, 4);
    return v3;
}

/**
 * A picture of the page, dark and light, as a tooth whose tile is so wide, mm: its resolution stated in it.
 * @param {string} uri
 * @param {number} tile_mm
 * @returns {string}
 */
export function tooth_of(uri, tile_mm) {
    let deferred4_0;
    let deferred4_1;
    try {
        const val2 = +tile_mm;
        const ptr0 = passStringToWasm0(uri, wasm.__wbindgen_malloc, wasm.__wbindgen_realloc);
        const len0 = WASM_VECTOR_LEN;
        const ret = wasm.tooth_of(ptr0, len0, val2);
        var ptr3 = ret[0];
        var len3 = ret[1];
        if (ret[3]) {
            ptr3 = 0; len3 = 0;
            throw takeFromExternrefTable0(ret[2]);
        }
        deferred4_0 = ptr3;
        deferred4_1 = len3;
        return getStringFromWasm0(ptr3, len3);
    } finally {
        wasm.__wbindgen_free(deferred4_0, deferred4_1, 1);
    }
}

/**
 * A stroke without its point `k`.
 * @param {Float64Array | number[]} samples
 * @param {Uint32Array | number[]} points
 * @param {number} k
 * @returns {Float64Array}
 */
export function without_point(samples, points, k) {
    const val3 = +k;
    let ptr0, len0, ptr1, len1;
    try {
        ptr0 = passArrayF64ToWasm0(samples, wasm.__wbindgen_malloc);
        len0 = WASM_VECTOR_LEN;
        ptr1 = passArray32ToWasm0(points, wasm.__wbindgen_malloc);
        len1 = WASM_VECTOR_LEN;
    } catch (e) {
        if (ptr1) { wasm.__wbindgen_free(ptr1, len1 * 4, 4); }
        if (ptr0) { wasm.__wbindgen_free(ptr0, len0 * 8, 8); }
        throw e;
    }
    const ret = wasm.without_point(ptr0, len0, ptr1, len1, val3);
    var v4 = getArrayF64FromWasm0(ret[0], ret[1]).slice();
    wasm.__wbindgen_free(ret[0], ret[1] * 8, 8);
    return v4;
}
function __wbg_get_imports() {
    const import0 = {
        __proto__: null,
        __wbg_Error_208446807d0d1e30: function(arg0, arg1) {
            const ret = Error(getStringFromWasm0(arg0, arg1));
            return ret;
        },
        __wbg___wbindgen_throw_4c88d8bf264fd984: function(arg0, arg1) {
            throw new Error(getStringFromWasm0(arg0, arg1));
        },
        __wbindgen_generic_0000000000000001: function(arg0, arg1) {
            // Cast intrinsic for `Ref(String) -> Externref`.
            const ret = getStringFromWasm0(arg0, arg1);
            return ret;
        },
        __wbindgen_init_externref_table: function() {
            const table = wasm.__wbindgen_externrefs;
            table.set(0, undefined);
            table.set(1024, undefined);
            table.set(1025, null);
            table.set(1026, true);
            table.set(1027, false);
        },
    };
    return {
        __proto__: null,
        "./eddymist_wasm_bg.js": import0,
    };
}

const EngineFinalization = (typeof FinalizationRegistry === 'undefined')
    ? { register: () => {}, unregister: () => {} }
    : new FinalizationRegistry(ptr => wasm.__wbg_engine_free(ptr, 1));
const InkPictureFinalization = (typeof FinalizationRegistry === 'undefined')
    ? { register: () => {}, unregister: () => {} }
    : new FinalizationRegistry(ptr => wasm.__wbg_inkpicture_free(ptr, 1));
const LiveFinalization = (typeof FinalizationRegistry === 'undefined')
    ? { register: () => {}, unregister: () => {} }
    : new FinalizationRegistry(ptr => wasm.__wbg_live_free(ptr, 1));
const PathEngineFinalization = (typeof FinalizationRegistry === 'undefined')
    ? { register: () => {}, unregister: () => {} }
    : new FinalizationRegistry(ptr => wasm.__wbg_pathengine_free(ptr, 1));

function getArrayF64FromWasm0(ptr, len) {
    ptr = ptr >>> 0;
    return getFloat64ArrayMemory0().subarray(ptr / 8, ptr / 8 + len);
}

function getArrayJsValueFromWasm0(ptr, len) {
    ptr = ptr >>> 0;
    const mem = getDataViewMemory0();
    const result = [];
    for (let i = ptr; i < ptr + 4 * len; i += 4) {
        result.push(wasm.__wbindgen_externrefs.get(mem.getUint32(i, true)));
    }
    wasm.__externref_drop_slice(ptr, len);
    return result;
}

function getArrayU32FromWasm0(ptr, len) {
    ptr = ptr >>> 0;
    return getUint32ArrayMemory0().subarray(ptr / 4, ptr / 4 + len);
}

function getArrayU8FromWasm0(ptr, len) {
    ptr = ptr >>> 0;
    return getUint8ArrayMemory0().subarray(ptr / 1, ptr / 1 + len);
}

let cachedDataViewMemory0 = null;
function getDataViewMemory0() {
    if (cachedDataViewMemory0 === null || cachedDataViewMemory0.buffer.detached === true || (cachedDataViewMemory0.buffer.detached === undefined && cachedDataViewMemory0.buffer !== wasm.memory.buffer)) {
        cachedDataViewMemory0 = new DataView(wasm.memory.buffer);
    }
    return cachedDataViewMemory0;
}

let cachedFloat64ArrayMemory0 = null;
function getFloat64ArrayMemory0() {
    if (cachedFloat64ArrayMemory0 === null || cachedFloat64ArrayMemory0.byteLength === 0) {
        cachedFloat64ArrayMemory0 = new Float64Array(wasm.memory.buffer);
    }
    return cachedFloat64ArrayMemory0;
}

function getStringFromWasm0(ptr, len) {
    ptr = ptr >>> 0;
    return decodeText(getUint8ArrayMemory0().subarray(ptr, ptr + len));
}

let cachedUint32ArrayMemory0 = null;
function getUint32ArrayMemory0() {
    if (cachedUint32ArrayMemory0 === null || cachedUint32ArrayMemory0.byteLength === 0) {
        cachedUint32ArrayMemory0 = new Uint32Array(wasm.memory.buffer);
    }
    return cachedUint32ArrayMemory0;
}

let cachedUint8ArrayMemory0 = null;
function getUint8ArrayMemory0() {
    if (cachedUint8ArrayMemory0 === null || cachedUint8ArrayMemory0.byteLength === 0) {
        cachedUint8ArrayMemory0 = new Uint8Array(wasm.memory.buffer);
    }
    return cachedUint8ArrayMemory0;
}

function isLikeNone(x) {
    return x === undefined || x === null;
}

function passArray32ToWasm0(arg, malloc) {
    const ptr = malloc(arg.length * 4, 4) >>> 0;
    getUint32ArrayMemory0().set(arg, ptr / 4);
    WASM_VECTOR_LEN = arg.length;
    return ptr;
}

function passArrayF64ToWasm0(arg, malloc) {
    const ptr = malloc(arg.length * 8, 8) >>> 0;
    getFloat64ArrayMemory0().set(arg, ptr / 8);
    WASM_VECTOR_LEN = arg.length;
    return ptr;
}

function passStringToWasm0(arg, malloc, realloc) {
    if (realloc === undefined) {
        const buf = cachedTextEncoder.encode(arg);
        const ptr = malloc(buf.length, 1) >>> 0;
        getUint8ArrayMemory0().subarray(ptr, ptr + buf.length).set(buf);
        WASM_VECTOR_LEN = buf.length;
        return ptr;
    }

    let len = arg.length;
    let ptr = malloc(len, 1) >>> 0;

    const mem = getUint8ArrayMemory0();

    let offset = 0;

    for (; offset < len; offset++) {
        const code = arg.charCodeAt(offset);
        if (code > 0x7F) break;
        mem[ptr + offset] = code;
    }
    if (offset !== len) {
        if (offset !== 0) {
            arg = arg.slice(offset);
        }
        ptr = realloc(ptr, len, len = offset + arg.length * 3, 1) >>> 0;
        const view = getUint8ArrayMemory0().subarray(ptr + offset, ptr + len);
        const ret = cachedTextEncoder.encodeInto(arg, view);

        offset += ret.written;
        ptr = realloc(ptr, len, offset, 1) >>> 0;
    }

    WASM_VECTOR_LEN = offset;
    return ptr;
}

function takeFromExternrefTable0(idx) {
    const value = wasm.__wbindgen_externrefs.get(idx);
    wasm.__externref_table_dealloc(idx);
    return value;
}

let cachedTextDecoder = new TextDecoder('utf-8', { ignoreBOM: true });
cachedTextDecoder.decode();
const MAX_SAFARI_DECODE_BYTES = 2146435072;
let numBytesDecoded = 0;
function decodeText(bytes) {
    numBytesDecoded += bytes.length;
    if (numBytesDecoded >= MAX_SAFARI_DECODE_BYTES) {
        cachedTextDecoder = new TextDecoder('utf-8', { ignoreBOM: true });
        cachedTextDecoder.decode();
        numBytesDecoded = bytes.length;
    }
    return cachedTextDecoder.decode(bytes);
}

const cachedTextEncoder = new TextEncoder();

if (!('encodeInto' in cachedTextEncoder)) {
    cachedTextEncoder.encodeInto = function (arg, view) {
        const buf = cachedTextEncoder.encode(arg);
        view.set(buf);
        return {
            read: arg.length,
            written: buf.length
        };
    };
}

let WASM_VECTOR_LEN = 0;

let wasmModule, wasmInstance, wasm;
function __wbg_finalize_init(instance, module) {
    wasmInstance = instance;
    wasm = instance.exports;
    wasmModule = module;
    cachedDataViewMemory0 = null;
    cachedFloat64ArrayMemory0 = null;
    cachedUint32ArrayMemory0 = null;
    cachedUint8ArrayMemory0 = null;
    wasm.__wbindgen_start();
    return wasm;
}

async function __wbg_load(module, imports) {
    if (typeof Response === 'function' && module instanceof Response) {
        if (!module.ok) {
            throw new Error(`failed to fetch Wasm: ${module.status} ${module.statusText} fetching '${module.url}'`);
        }

        if (typeof WebAssembly.instantiateStreaming === 'function') {
            try {
                return await WebAssembly.instantiateStreaming(module, imports);
            } catch (e) {
                const validResponse = expectedResponseType(module.type);

                if (validResponse && module.headers.get('Content-Type') !== 'application/wasm') {
                    console.warn("`WebAssembly.instantiateStreaming` failed because your server does not serve Wasm with `application/wasm` MIME type. Falling back to `WebAssembly.instantiate` which is slower. Original error:\n", e);

                } else { throw e; }
            }
        }

        const bytes = await module.arrayBuffer();
        return await WebAssembly.instantiate(bytes, imports);
    } else {
        const instance = await WebAssembly.instantiate(module, imports);

        if (instance instanceof WebAssembly.Instance) {
            return { instance, module };
        } else {
            return instance;
        }
    }

    function expectedResponseType(type) {
        switch (type) {
            case 'basic': case 'cors': case 'default': return true;
        }
        return false;
    }
}

function initSync(module) {
    if (wasm !== undefined) return wasm;


    if (module !== undefined) {
        if (Object.getPrototypeOf(module) === Object.prototype) {
            ({module} = module)
        } else {
            console.warn('using deprecated parameters for `initSync()`; pass a single object instead')
        }
    }

    const imports = __wbg_get_imports();
    if (!(module instanceof WebAssembly.Module)) {
        module = new WebAssembly.Module(module);
    }
    const instance = new WebAssembly.Instance(module, imports);
    return __wbg_finalize_init(instance, module);
}

let __wbg_init_promise;
async function __wbg_init(module_or_path) {
    if (wasm !== undefined) return wasm;
    if (__wbg_init_promise === undefined) {
        __wbg_init_promise = __wbg_init_once(module_or_path);
        __wbg_init_promise.catch(() => { __wbg_init_promise = undefined; });
    }
    return __wbg_init_promise;
}

async function __wbg_init_once(module_or_path) {

    if (module_or_path !== undefined) {
        if (Object.getPrototypeOf(module_or_path) === Object.prototype) {
            ({module_or_path} = module_or_path)
        } else {
            console.warn('using deprecated parameters for the initialization function; pass a single object instead')
        }
    }


    const imports = __wbg_get_imports();

    if (typeof module_or_path === 'string' || (typeof Request === 'function' && module_or_path instanceof Request) || (typeof URL === 'function' && module_or_path instanceof URL)) {
        module_or_path = fetch(module_or_path);
    }

    const { instance, module } = await __wbg_load(await module_or_path, imports);

    return __wbg_finalize_init(instance, module);
}

export { initSync, __wbg_init as default };
