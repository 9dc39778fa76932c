// Two versions of a guide in words: every difference once, and nothing where nothing differs.
import { expect, test } from 'vitest';
import { guideChanges } from './guideChanges';

const guide = (more: object = {}) =>
  ({
    format: 'eddymist/line-guide',
    version: 1,
    name: 'Night Tram',
    page: { width_px: 1920, height_px: 1080, px_per_mm: 6.3 },
    roles: [
      { name: 'contour', from: { colour: '#1b1e24' }, weight_px: { target: 6, tolerance: 0.1 } },
      { name: 'stripe', from: { colour: '#5c5f14' }, weight_px: { target: 4, tolerance: 0.12, swell: [3, 5] } },
    ],
    limits: { gap_px: 6 },
    must_mend: ['heavy', 'thin'],
    ...more,
  }) as unknown as Parameters<typeof guideChanges>[0];

test('a guide differs from itself in nothing', () => {
  expect(guideChanges(guide(), guide())).toEqual([]);
});

test('what is other, new or gone is told once, by role and not by place in the list', () => {
  const roles = [
    { name: 'stripe', from: { colour: '#5c5f14' }, weight_px: { target: 4.5, tolerance: 0.12, swell: [3, 5.5] } },
    { name: 'contour', from: { colour: '#1b1e24' }, weight_px: { target: 6, tolerance: 0.1 } },
    { name: 'whisker', from: { rest: true }, weight_px: { target: 2, tolerance: 0.2 } },
  ];
  const found = guideChanges(guide(), guide({ roles, must_mend: ['heavy'], limits: { gap_px: 8 }, page: { width_px: 1920, height_px: 1080 } }));
  expect(found).toContainEqual({ field: 'stripe: target px', was: '4', is: '4.5' });
  expect(found).toContainEqual({ field: 'stripe: swell px', was: '3, 5', is: '3, 5.5' });
  expect(found).toContainEqual({ field: 'must fix', was: 'heavy, thin', is: 'heavy' });
  expect(found).toContainEqual({ field: 'limit: gap px', was: '6', is: '8' });
  expect(found).toContainEqual({ field: 'page: px per mm', was: '6.3', is: 'not there' });
  const wider = guide({ roles: [{ name: 'contour', from: { colour: '#1b1e24', tolerance: 8 }, weight_px: { target: 6, tolerance: 0.155 } }] });
  expect(guideChanges(guide(), wider)).toContainEqual({ field: 'contour: tolerance', was: '10 %', is: '15.5 %' });
  expect(found.filter((c) => c.field.startsWith('whisker')).map((c) => c.was)).toEqual(['not there', 'not there', 'not there']);
  expect(found.filter((c) => c.field.startsWith('contour'))).toEqual([]);
  expect(found).toHaveLength(8);
});

test('a region left out is told by where it lies, and not by its corners', () => {
  const corners = [
    [0, 0],
    [480, 0],
    [480, 120],
    [0, 120],
  ];
  const wider = corners.map(([x = 0, y = 0]) => [2 * x, y]);
  const [was, is] = [corners, wider].map((points) => guide({ left_out: [{ name: 'slate', shot: '012', points }] }));
  if (!was || !is) throw new Error('two guides');
  const place = '120 px, 0 from the left, 0 from the top';
  expect(guideChanges(was, is)).toEqual([{ field: 'left out: slate', was: `480×${place}`, is: `960×${place}` }]);
  expect(guideChanges(guide(), was)).toContainEqual({ field: 'left out: slate', was: 'not there', is: `480×${place}` });
});
