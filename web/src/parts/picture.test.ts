// Lines as they are shown: what the pointer finds is what is nearest, runs hold every place, normals stand across.
import { expect, test } from 'vitest';
import type { Schemas } from '../api/client';
import { FIGURE, finder, normalAt, pictureUrl, placeOf, runs } from './picture';

type Line = Schemas['WeighedLine'];

/** Numbers from 0 to 1 that are the same in every run (a linear congruential generator, from memory). */
function numbers(seed: number) {
  let s = seed;
  return () => {
    s = (1664525 * s + 1013904223) % 4294967296;
    return s / 4294967296;
  };
}

/** A line of so many places from a point in a direction, widths about 5 px. */
function line(next: () => number, n: number): Line {
  const [x, y, a] = [400 * next(), 300 * next(), 6.28 * next()];
  const places = Array.from({ length: n }, (_, i) => [x + 2 * i * Math.cos(a), y + 2 * i * Math.sin(a), 4 + 2 * next()]).flat();
  const standing = Array.from({ length: n }, () => 'twh-'[Math.floor(4 * next())]).join('');
  return { role: 0, closed: false, places: places.map((v) => Math.round(10 * v)), standing };
}

test('the place under the pointer is the nearest of all, or none is within reach', () => {
  const next = numbers(7);
  for (let round = 0; round < 60; round++) {
    const lines = Array.from({ length: 1 + Math.floor(5 * next()) }, () => line(next, 2 + Math.floor(60 * next())));
    const find = finder(lines);
    for (let k = 0; k < 12; k++) {
      const [x, y, reach] = [420 * next() - 10, 320 * next() - 10, 1 + 60 * next()];
      let best = Number.POSITIVE_INFINITY;
      lines.forEach((l, i) => {
        for (let j = 0; j < l.standing.length; j++) {
          const p = placeOf(lines, i, j);
          best = Math.min(best, Math.hypot(p.x - x, p.y - y));
        }
      });
      const found = find(x, y, reach);
      if (best < reach) expect(found && Math.hypot(found.x - x, found.y - y)).toBeCloseTo(best, 9);
      else expect(found).toBeNull();
    }
  }
});

test('runs hold every place of a line in its standing, and join where they meet', () => {
  const next = numbers(11);
  for (let round = 0; round < 40; round++) {
    const lines = [line(next, 2 + Math.floor(40 * next())), line(next, 2 + Math.floor(40 * next()))];
    const all = runs(lines);
    lines.forEach((l, k) => {
      const own = all.filter((r) => r.line === k);
      // As many changes of standing as there are runs, less one; the letters are those of the line in their order.
      const changes = [...l.standing].filter((s, i) => i > 0 && s !== l.standing[i - 1]).length;
      expect(own).toHaveLength(changes + 1);
      expect(own.map((r) => r.standing).join('')).toBe(l.standing.replace(/(.)\1*/g, '$1'));
      // Each begins where the last one ended: the line has no holes.
      const ends = (d: string) => [d.slice(1).split('L')[0], d.split('L').pop()?.replace('M', '')];
      own.slice(1).forEach((r, i) => {
        expect(ends(r.d)[0]).toBe(ends(own[i]?.d ?? '')[1]);
      });
      const widths = Array.from({ length: l.standing.length }, (_, i) => placeOf(lines, k, i).width);
      for (const r of own) expect(r.width >= Math.min(...widths) - 1e-9 && r.width <= Math.max(...widths) + 1e-9).toBe(true);
    });
  }
});

test('normals stand across their line, whichever way it runs', () => {
  for (let deg = 0; deg < 360; deg += 15) {
    const a = (deg * Math.PI) / 180;
    const places = Array.from({ length: 20 }, (_, i) => [200 + 40 * i * Math.cos(a), 200 + 40 * i * Math.sin(a), 5]).flat();
    const lines: Line[] = [{ role: 0, closed: false, places: places.map((v) => Math.round(10 * v)), standing: 'w'.repeat(20) }];
    for (const i of [0, 9, 19]) {
      const n = (normalAt(lines, placeOf(lines, 0, i)) * Math.PI) / 180;
      expect(Math.abs(Math.cos(n) * Math.cos(a) + Math.sin(n) * Math.sin(a))).toBeLessThan(0.01);
    }
  }
});

test('every kind of finding has its figure in its own unit, and pictures that no browser shows come as previews', () => {
  expect([FIGURE.gap(2.345), FIGURE.uneven(0.253), FIGURE.hook(71.6), FIGURE.speck(4.06), FIGURE['off-palette'](12.4), FIGURE['blunt-end'](0.28)]).toEqual([
    '2.3 px',
    '25 %',
    '72°',
    '4.1 px²',
    '12 ΔE',
    '0.3 widths',
  ]);
  expect(pictureUrl('/p', 'abc', 'in/a.PNG')).toBe('/p/images/abc');
  expect(pictureUrl('/p', 'abc', 'a.svg')).toBe('/p/images/abc');
  expect(pictureUrl('/p', 'abc', 'a.tif')).toBe('/p/images/abc/preview');
  expect(pictureUrl('/p', 'abc', 'a.ora')).toBe('/p/images/abc/preview');
});
