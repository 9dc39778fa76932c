// What is wrong with a stroke of the warm-up, told the moment it is drawn.
import { describe, expect, test } from 'vitest';
import { guides, STEPS, type Step, whatIsWrong } from './warmUpSteps';

/** Six numbers a sample: t in ms, x and y in mm, pressure, azimuth, elevation. */
const stroke = (n: number, seconds: number, at: (u: number) => [number, number]) =>
  Array.from({ length: n }, (_, i) => [(1000 * seconds * i) / (n - 1), ...at(i / (n - 1)), 0.5, Number.NaN, Number.NaN]).flat();
const line = (mm: number, seconds = 2) => stroke(60, seconds, (u) => [20 + mm * u, 30]);
const step = (exercise: string, pace?: Step['pace']) => STEPS.find((s) => s.exercise === exercise && (!pace || s.pace === pace)) as Step;

/** For each exercise a stroke that is as it asks for. */
const RIGHT: Record<string, number[]> = {
  effort: line(80),
  ramp: line(80),
  ruled: line(90, 3),
  diagonal: stroke(80, 3, (u) => [20 + 60 * u, 80 - 60 * u]),
  flick: line(20, 0.2),
  landing: line(20, 0.3),
  dot: stroke(60, 1.2, () => [30, 30]),
  circle: stroke(90, 2, (u) => [40 + 15 * Math.cos(2 * Math.PI * u), 40 + 15 * Math.sin(2 * Math.PI * u)]),
  freehand: stroke(90, 3, (u) => [20 + 90 * u, 40 + 20 * Math.sin(6 * u)]),
  card: line(85, 3),
};

test.each(STEPS.map((s) => [s.title, s] as const))('%s: a stroke as it is asked for is taken', (_, s) => {
  const right = s.exercise === 'diagonal' && s.pace === 'fast' ? stroke(80, 1, (u) => [20 + 60 * u, 80 - 60 * u]) : RIGHT[s.exercise];
  expect(right).toBeDefined();
  expect(whatIsWrong(s, right as number[])).toBeNull();
});

describe('and one that is not is refused with what to do', () => {
  test.each([
    ['effort', line(10), 'too short'],
    ['ramp', line(8), 'too short'],
    ['ruled', line(90, 0.2), 'too fast'],
    ['ruled', stroke(60, 3, (u) => [20 + 90 * u, 30 + 30 * Math.sin(Math.PI * u)]), 'left the line'],
    ['diagonal', stroke(60, 3, (u) => [20 + 60 * u, 80 - 60 * u + 100 * u * (1 - u)]), 'left the line'],
    ['flick', line(3, 0.1), 'too short'],
    ['landing', line(4, 0.2), 'too short'],
    ['dot', line(30, 1), 'a stroke, not a dot'],
    ['dot', stroke(20, 0.1, () => [30, 30]), 'too short'],
    ['circle', stroke(60, 2, (u) => [40 + 2 * Math.cos(6.28 * u), 40 + 2 * Math.sin(6.28 * u)]), 'too short'],
    ['circle', stroke(60, 2, (u) => [40 + 15 * Math.cos(4 * u), 40 + 15 * Math.sin(4 * u)]), 'not closed'],
    ['freehand', line(12), 'too short'],
    ['card', line(12), 'too short'],
  ])('%s', (exercise, drawn, says) => {
    const wrong = whatIsWrong(step(exercise, exercise === 'diagonal' ? 'slow' : undefined), drawn as number[]);
    expect(wrong).toContain(says);
    expect(wrong).toContain('The stroke was not used.');
  });
});

test('guides lie on the surface, and as many as the exercise has strokes at most', () => {
  for (const s of STEPS) {
    const lines = guides(s);
    expect(lines.flat().every((v) => v >= 0 && v <= 1)).toBe(true);
    if (lines.length) expect(lines.length).toBeGreaterThanOrEqual(s.count - 1);
  }
});
