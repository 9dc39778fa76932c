// What takes the keyboard as it appears.
/** As a ref: what was asked for by a click or a key has the keyboard at once. */
export const focused = (e: HTMLElement | null) => e?.focus();
