// The colours that words stand in have the contrast that WCAG 2.2 AA asks for, on every ground that they stand on.
import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';

const scss = readFileSync(new URL('./styles.scss', import.meta.url), 'utf8');
const sass = Object.fromEntries([...scss.matchAll(/^\$([\w-]+):\s*(#[0-9a-f]{6});/gim)].map((m) => [m[1], m[2]]));
const tokens: Record<string, string> = Object.fromEntries(
  [...scss.matchAll(/--([\w-]+):\s*(?:(#[0-9a-f]{6})|#\{\$([\w-]+)\});/gi)].map((m) => [m[1] as string, (m[2] ?? sass[m[3] as string]) as string]),
);

/** Relative luminance (WCAG 2.2). */
function luminance(hex: string) {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((i) => {
    const v = Number.parseInt(hex.slice(i, i + 2), 16) / 255;
    return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}
function contrast(a: string, b: string) {
  const [high = 0, low = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x);
  return (high + 0.05) / (low + 0.05);
}
const token = (name: string) => {
  const hex = tokens[name];
  if (!hex) throw new Error(`there is no --${name}`);
  return hex;
};

test('contrast is reckoned as the standard does', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 6);
  expect(contrast('#777777', '#ffffff')).toBeCloseTo(4.48, 2);
});

test.each(['mist', 'paper', 'sill', 'band'])('words can be read on --%s', (ground) => {
  for (const word of ['ink', 'ink-soft', 'eddy', 'thin', 'warn', 'stop'])
    expect(contrast(token(word), token(ground)), `--${word} on --${ground}`).toBeGreaterThanOrEqual(4.5);
  // Vermilion is the nearest to its grounds.
  expect(contrast(token('heavy'), token(ground)), `--heavy on --${ground}`).toBeGreaterThanOrEqual(4.5);
});

test('words can be read on the tints of their own colour, and what is no word stands off its ground', () => {
  for (const [word, ground] of [
    ['eddy', 'eddy-tint'],
    ['thin', 'thin-tint'],
    ['heavy', 'heavy-tint'],
    ['warn', 'warn-tint'],
    ['paper', 'eddy'],
  ] as const)
    expect(contrast(token(word), token(ground)), `${word} on ${ground}`).toBeGreaterThanOrEqual(4.5);
  for (const mark of ['thin', 'heavy', 'ink']) expect(contrast(token(mark), token('band'))).toBeGreaterThanOrEqual(3);
});
