// How a page lies on the screen: size, turn, mirroring and place; a page's mm to the element's px and back.

export type View = {
  /** Element px to a mm of the page. */
  scale: number;
  /** Radians, clockwise as seen. */
  turn: number;
  mirror: boolean;
  /** Where the page's origin lies, element px. */
  x: number;
  y: number;
};
export type Point = [number, number];
/** a, b, c, d of a canvas' transform. */
export type Linear = [number, number, number, number];

const LEAST = 0.02;
const MOST = 400;

export function linear(v: View): Linear {
  const m = v.mirror ? -1 : 1;
  const [cos, sin] = [Math.cos(v.turn), Math.sin(v.turn)];
  return [v.scale * m * cos, v.scale * m * sin, -v.scale * sin, v.scale * cos];
}

export function toScreen(v: View, [x, y]: Point): Point {
  const [a, b, c, d] = linear(v);
  return [a * x + c * y + v.x, b * x + d * y + v.y];
}

export function toPage(v: View, [px, py]: Point): Point {
  const [a, b, c, d] = linear(v);
  const det = a * d - b * c;
  const [x, y] = [px - v.x, py - v.y];
  return [(d * x - c * y) / det, (a * y - b * x) / det];
}

/** Another size, turn or mirroring, with the place under an element's point staying where it is. */
export function about(v: View, at: Point, to: Partial<Pick<View, 'scale' | 'turn' | 'mirror'>>): View {
  const place = toPage(v, at);
  const next = { ...v, ...to, scale: Math.min(MOST, Math.max(LEAST, to.scale ?? v.scale)) };
  const [x, y] = toScreen({ ...next, x: 0, y: 0 }, place);
  return { ...next, x: at[0] - x, y: at[1] - y };
}

/** Two fingers that moved: where they were and where they are. */
export function pinched(v: View, was: [Point, Point], is: [Point, Point]): View {
  const middle = ([p, q]: [Point, Point]): Point => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
  const apart = ([p, q]: [Point, Point]) => Math.max(1, Math.hypot(p[0] - q[0], p[1] - q[1]));
  const [from, to] = [middle(was), middle(is)];
  return about({ ...v, x: v.x + to[0] - from[0], y: v.y + to[1] - from[1] }, to, { scale: (v.scale * apart(is)) / apart(was) });
}

/** A page of so many mm whole in an element of so many px, upright. */
export function fitted(width: number, height: number, box: Point, margin = 12): View {
  const scale = Math.max(LEAST, Math.min((box[0] - 2 * margin) / width, (box[1] - 2 * margin) / height));
  return { scale, turn: 0, mirror: false, x: (box[0] - scale * width) / 2, y: (box[1] - scale * height) / 2 };
}

/** From a place to the piece of a stroke that begins at sample `k`, mm. */
export function apart(samples: number[], k: number, [x, y]: Point) {
  const [ax = 0, ay = 0] = [samples[k + 1], samples[k + 2]];
  const [bx = ax, by = ay] = [samples[k + 7], samples[k + 8]];
  const [dx, dy] = [bx - ax, by - ay];
  const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(ax + t * dx - x, ay + t * dy - y);
}
