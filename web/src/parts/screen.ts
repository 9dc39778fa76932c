// How many px of this screen make a millimetre: 96 to the inch until a card has been held against it.
import { useState } from 'react';

const KEY = 'px-per-mm';
/** ISO/IEC 7810 ID-1: the width and height of every bank card. */
export const CARD_MM = [85.6, 53.98] as const;
const ASSUMED = 96 / 25.4;

/** The stored match of this screen, if one was made. */
export function matched(): number | null {
  const v = Number(localStorage.getItem(KEY));
  return Number.isFinite(v) && v > 1 && v < 60 ? v : null;
}

export function useScreenScale() {
  const [own, setOwn] = useState(matched);
  return {
    pxPerMm: own ?? ASSUMED,
    matched: own != null,
    keep: (v: number) => {
      localStorage.setItem(KEY, String(v));
      setOwn(v);
    },
  };
}
