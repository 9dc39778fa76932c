import { expect, test } from 'vitest';
import { onPage, outlineOf, type Points } from './region';

const round = (n: number, r: number): Points => Array.from({ length: n }, (_, i) => [100 + r * Math.cos((i / n) * 6.2), 80 + r * Math.sin((i / n) * 6.2)]);

test('a drag is a rectangle whichever way it goes, what comes back to its beginning is an outline', () => {
  const box = [
    [10, 20],
    [110, 20],
    [110, 70],
    [10, 70],
  ];
  for (const way of [
    [
      [10, 20],
      [60, 50],
      [110, 70],
    ],
    [
      [110, 70],
      [10, 20],
    ],
    [
      [110, 20],
      [70, 20],
      [10, 70],
    ],
  ] as Points[]) {
    expect(outlineOf(way)).toEqual(box);
  }
  const outline = outlineOf(round(900, 40));
  expect(outline?.length).toBeLessThanOrEqual(120);
  expect(outline?.every(([x, y]) => Math.abs(Math.hypot(x - 100, y - 80) - 40) < 1e-9)).toBe(true);
});

test('a slip of the hand is no region', () => {
  expect(outlineOf([])).toBeNull();
  expect(outlineOf([[5, 5]])).toBeNull();
  expect(
    outlineOf([
      [5, 5],
      [300, 7],
    ]),
  ).toBeNull();
  expect(outlineOf(round(30, 1.5))).toBeNull();
});

test('a region is kept in px of the guide’s page', () => {
  expect(
    onPage(
      [
        [200, 100],
        [301, 151],
      ],
      2,
    ),
  ).toEqual([
    [100, 50],
    [150.5, 75.5],
  ]);
});
