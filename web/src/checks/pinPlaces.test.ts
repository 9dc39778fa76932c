import { expect, test } from 'vitest';
import { labelsShown, pinPlaces } from './pinPlaces';

/** The same numbers in every run. */
const chance = (seed: number) => () => {
  seed = (seed * 1103515245 + 12345) % 2147483648;
  return seed / 2147483648;
};

test('no pin covers another, wherever the findings lie and however near the drawing is seen', () => {
  for (let seed = 1; seed <= 300; seed++) {
    const r = chance(seed);
    const k = 0.05 + 3 * r();
    const seen = { x: 400 * r(), y: 300 * r(), width: 880 * k, height: 560 * k };
    // All anywhere, or all at one place.
    const spread = seed % 3 === 0 ? 0.01 : 1;
    const at = Array.from({ length: 13 }, () => ({
      x: seen.x + seen.width * (0.5 + spread * (r() - 0.5)),
      y: seen.y + seen.height * (0.5 + spread * (r() - 0.5)),
    }));
    const middle = { x: seen.x + seen.width * r(), y: seen.y + seen.height * r() };
    const pins = pinPlaces(at, seen, middle, k);
    for (const [i, p] of pins.entries()) {
      expect(p.x >= seen.x && p.x <= seen.x + seen.width && p.y >= seen.y && p.y <= seen.y + seen.height).toBe(true);
      for (const q of pins.slice(0, i)) expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThanOrEqual(23.99 * k);
    }
  }
});

test('a lone pin stands straight away from the middle; labels that would run over another are left out', () => {
  const [pin] = pinPlaces([{ x: 500, y: 280 }], { x: 0, y: 0, width: 880, height: 560 }, { x: 440, y: 280 }, 1);
  expect([pin?.x, pin?.y]).toEqual([550, 280]);
  const at = (x: number, y: number) => ({ x, y, says: 'spotted black, not measured' });
  expect(labelsShown([at(100, 100), at(120, 104), at(100, 130), at(400, 100)], 1)).toEqual([true, false, true, true]);
});
