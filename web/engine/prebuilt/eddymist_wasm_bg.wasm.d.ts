/* tslint:disable */
/* eslint-disable */
export const memory: WebAssembly.Memory;
export const __wbg_engine_free: (a: number, b: number) => void;
export const __wbg_get_inkpicture_width: (a: number) => number;
export const __wbg_get_inkpicture_x: (a: number) => number;
export const __wbg_get_inkpicture_y: (a: number) => number;
export const __wbg_inkpicture_free: (a: number, b: number) => void;
export const __wbg_live_free: (a: number, b: number) => void;
export const __wbg_set_inkpicture_width: (a: number, b: number) => void;
export const __wbg_set_inkpicture_x: (a: number, b: number) => void;
export const __wbg_set_inkpicture_y: (a: number, b: number) => void;
export const curve: (a: number, b: number, c: number) => [number, number, number, number];
export const engine_begin: (a: number, b: number) => number;
export const engine_blur: (a: number) => number;
export const engine_new: (a: number, b: number, c: number, d: number, e: number) => [number, number, number];
export const engine_opacity: (a: number) => number;
export const engine_paths: (a: number, b: number, c: number, d: number) => [number, number];
export const engine_picture: (a: number, b: number, c: number, d: number, e: number) => number;
export const inkpicture_alpha: (a: number) => [number, number];
export const live_push: (a: number, b: number, c: number, d: number, e: number, f: number, g: number) => [number, number];
export const spherical: (a: number, b: number) => [number, number];
export const __wbindgen_externrefs: WebAssembly.Table;
export const __wbindgen_malloc: (a: number, b: number) => number;
export const __wbindgen_free: (a: number, b: number, c: number) => void;
export const __externref_table_dealloc: (a: number) => void;
export const __wbindgen_realloc: (a: number, b: number, c: number, d: number) => number;
export const __externref_drop_slice: (a: number, b: number) => void;
export const __wbindgen_start: () => void;
