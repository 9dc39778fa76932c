// What a pointer means: ink, erase, move the view. Once a pen has been seen, touch never inks.

export type Meaning = 'ink' | 'erase' | 'move' | 'nothing';
export type Barrel = 'move' | 'erase' | 'nothing';

const SEEN = 'eddymist.pen-seen';
const BARREL = 'eddymist.barrel';

export const barrel = (): Barrel => {
  const kept = localStorage.getItem(BARREL);
  return kept === 'erase' || kept === 'nothing' ? kept : 'move';
};
export const setBarrel = (to: Barrel) => localStorage.setItem(BARREL, to);

let seen = false;
/** Whether this browser has met a pen. */
export function penSeen() {
  seen ||= localStorage.getItem(SEEN) === 'yes';
  return seen;
}

/** What a pointer that comes down means, by its kind and buttons (W3C Pointer Events, chorded buttons: 32 is the eraser's end, 2 the barrel). */
export function meaning(e: { pointerType: string; button: number; buttons: number }): Meaning {
  if (e.pointerType === 'pen') {
    if (!penSeen()) {
      seen = true;
      localStorage.setItem(SEEN, 'yes');
    }
    if (e.button === 5 || e.buttons & 32) return 'erase';
    if (e.button === 2 || e.buttons & 2) return barrel();
    return e.button === 0 ? 'ink' : 'nothing';
  }
  if (e.pointerType === 'touch') return penSeen() ? 'move' : 'ink';
  if (e.button === 0) return 'ink';
  return e.button === 1 || e.button === 2 ? 'move' : 'nothing';
}
