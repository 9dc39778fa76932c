// What is dragged or drawn round on a drawing, as a region to be left out.

export type Points = [number, number][];

/** A region is larger than this to each side, px: less is a slip of the hand. */
const LEAST = 4;
/** Corners of an outline at most. */
const CORNERS = 120;

/** The outline where the way comes back to near its beginning, else the rectangle from its first to its last place; none of a slip. */
export function outlineOf(way: Points): Points | null {
  const [first, last] = [way[0], way[way.length - 1]];
  if (!first || !last) return null;
  const side = (k: 0 | 1, of: Points) => of.map((p) => p[k]);
  const box = (of: Points) => [Math.min(...side(0, of)), Math.min(...side(1, of)), Math.max(...side(0, of)), Math.max(...side(1, of))] as const;
  const length = way.slice(1).reduce((sum, [x, y], i) => sum + Math.hypot(x - (way[i]?.[0] ?? x), y - (way[i]?.[1] ?? y)), 0);
  const round = Math.hypot(last[0] - first[0], last[1] - first[1]) < 0.35 * length;
  const [x0, y0, x1, y1] = box(round ? way : [first, last]);
  if (x1 - x0 < LEAST || y1 - y0 < LEAST) return null;
  if (!round)
    return [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ];
  const every = Math.ceil(way.length / CORNERS);
  return way.filter((_, i) => i % every === 0);
}

/** The same on the guide's page, of which the drawing is `scale` times as large. */
export const onPage = (points: Points, scale: number): Points => points.map(([x, y]) => [Math.round((x / scale) * 10) / 10, Math.round((y / scale) * 10) / 10]);
