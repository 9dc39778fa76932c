import { expect, test } from 'vitest';
import { headline, said } from './myPage';

const change = (figure: string, unit: string, before: number, after: number, interval: [number, number] | null) => ({
  figure,
  unit,
  before,
  after,
  interval,
  changed: interval ? interval[0] > 0 || interval[1] < 0 : null,
});

test('a heavier page with shorter tapers is said so, the widths in % of one’s own', () => {
  const width = change('width, middle', 'mm', 0.5, 0.55, [0.04, 0.06]);
  const taper = change('taper, to 90 %', 'mm', 5, 2.5, [-4, -1]);
  expect(headline([width, taper])).toBe('The trial page: its lines are 10 % heavier than yours; its tapers are 2.5 mm shorter.');
  expect(said(width)).toEqual(['0.500 mm', '0.550 mm', 'differs, +8.0 % to +12 %']);
  expect(said(taper)).toEqual(['5.0 mm', '2.5 mm', 'differs, −4.0 mm to −1.0 mm']);
});

test('what is not sure is not said', () => {
  const even = change('width, middle', 'mm', 0.5, 0.505, [-0.004, 0.014]);
  expect(headline([even])).toBe('No sure difference between the two pages.');
  expect(said(even)[2]).toBe('no sure difference, −0.8 % to +2.8 %');
  const few = change('width, middle', 'mm', 0.5, 0.6, null);
  expect(headline([few])).toContain('too few lines');
  expect(said(change('share of ends that taper', '', 0.5, 0.75, [0.1, 0.4]))).toEqual(['50 %', '75 %', 'differs, +10 % to +40 %']);
});
