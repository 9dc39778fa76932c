// Finished strokes in tiles at the screen's own pixels: what is seen is painted once, and only what changed is painted again.
import { type Engine, type Samples, strokePaths, strokePicture } from './engine';
import type { Linear, Point } from './view';

/** A finished stroke: what inks it, and in which colour. The key tells one ink from another. */
export type Drawn = { key: string; engine: Engine; samples: Samples; colour: string };

type Picture = NonNullable<ReturnType<typeof strokePicture>>;
type Ink = { paths: [Path2D, number][]; picture: Picture | null; at: number; box: [number, number, number, number]; blur: number };
type Tile = { canvas: OffscreenCanvas; context: OffscreenCanvasRenderingContext2D; used: number };
/** The tiles that a stroke came to lie on, as they were before it. */
type Before = { stroke: string; tiles: Map<string, Tile> };

/** Side of a tile, device px; tiles that are kept at most. */
const SIDE = 512;
const MOST_TILES = 160;
/** So many strokes can be taken back without painting what lies beneath them. */
const STEPS = 2;
/** A stamped stroke is set down at up to so many px to the mm. */
const FINEST = 40;

function blank(used: number): Tile | undefined {
  const canvas = new OffscreenCanvas(SIDE, SIDE);
  const context = canvas.getContext('2d');
  return context ? { canvas, context, used } : undefined;
}

const hits = (a: readonly number[], b: readonly number[]) =>
  (a[0] ?? 0) <= (b[2] ?? 0) && (b[0] ?? 0) <= (a[2] ?? 0) && (a[1] ?? 0) <= (b[3] ?? 0) && (b[1] ?? 0) <= (a[3] ?? 0);

/** Where numbers of path data reach. */
function reach(paths: [string, number][]): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [d] of paths) {
    let k = 0;
    for (const n of d.match(/-?[\d.]+(?:e-?\d+)?/g) ?? []) {
      const v = Number(n);
      const i = k++ % 2;
      if (v < (box[i] ?? 0)) box[i] = v;
      if (v > (box[i + 2] ?? 0)) box[i + 2] = v;
    }
  }
  return box;
}

export class Tiles {
  private strokes: Drawn[] = [];
  private inks = new Map<string, Ink>();
  private tiles = new Map<string, Tile>();
  private m: Linear = [1, 0, 0, 1];
  private clock = 0;
  private before: Before[] = [];

  /** Outlines of a stroke, made once; of a stamped one its picture, made anew at another size. */
  private ink(s: Drawn): Ink {
    let ink = this.inks.get(s.key);
    const at = Math.min(Math.hypot(this.m[0], this.m[1]), FINEST);
    if (!ink || (ink.picture && ink.at !== at)) {
      const picture = strokePicture(s.engine, s.samples, at, s.colour);
      const paths = picture ? [] : strokePaths(s.engine, s.samples);
      const [l, t, r, b] = picture ? [picture.x, picture.y, picture.x + picture.width, picture.y + picture.height] : reach(paths);
      const blur = s.engine.blur();
      const soft = 3 * blur + 0.05;
      ink = { paths: paths.map(([d, alpha]) => [new Path2D(d), alpha]), picture, at, box: [l - soft, t - soft, r + soft, b + soft], blur };
      this.inks.set(s.key, ink);
    }
    return ink;
  }

  /** Where a stroke's ink lies, mm. */
  box(s: Drawn) {
    return this.ink(s).box;
  }

  /** The strokes as they are now, from below: tiles that a change touches are painted again, a stroke on top of all is added to them. */
  set(strokes: Drawn[]) {
    const before = this.strokes;
    if (strokes === before) return;
    let same = 0;
    while (same < before.length && same < strokes.length && before[same]?.key === strokes[same]?.key) same++;
    this.strokes = strokes;
    const gone = before.slice(same);
    const fresh = strokes.slice(same);
    if (!gone.length) {
      for (const s of fresh) this.add(s);
    } else if (gone.length === 1 && !fresh.length && gone[0] && this.before.at(-1)?.stroke === gone[0].key) {
      this.back(gone[0]);
    } else {
      this.before = [];
      const now = new Set(fresh.map((s) => s.key));
      const was = new Set(gone.map((s) => s.key));
      // What is on both sides in the same order stays as it is painted.
      const changed = [...gone.filter((s) => !now.has(s.key)), ...fresh.filter((s) => !was.has(s.key))];
      const kept = (list: Drawn[], of: Set<string>) => list.filter((s) => of.has(s.key)).map((s) => s.key);
      const moved = kept(gone, now).join() !== kept(fresh, was).join();
      for (const s of moved ? [...gone, ...fresh] : changed) this.drop(this.ink(s).box);
    }
    if (this.inks.size > 2 * strokes.length + 400) {
      const used = new Set(strokes.map((s) => s.key));
      for (const k of this.inks.keys()) if (!used.has(k)) this.inks.delete(k);
    }
  }

  /** Where a tile lies on the page: the box about its corners. */
  private place(key: string): [number, number, number, number] {
    const [i = 0, j = 0] = key.split(' ').map(Number);
    const [a, b, c, d] = this.m;
    const det = a * d - b * c;
    const corners = [0, 1, 2, 3].map((k): Point => {
      const [x, y] = [(i + (k & 1)) * SIDE, (j + (k >> 1)) * SIDE];
      return [(d * x - c * y) / det, (a * y - b * x) / det];
    });
    const [xs, ys] = [corners.map((p) => p[0]), corners.map((p) => p[1])];
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  }

  /** The last stroke is gone again: its tiles are what they were. */
  private back(s: Drawn) {
    const was = this.before.pop()?.tiles;
    const box = this.ink(s).box;
    for (const key of [...this.tiles.keys()]) {
      const tile = was?.get(key);
      if (tile) this.tiles.set(key, tile);
      else if (hits(box, this.place(key))) this.tiles.delete(key);
    }
  }

  private drop(box: readonly number[]) {
    for (const key of [...this.tiles.keys()]) if (hits(box, this.place(key))) this.tiles.delete(key);
  }

  private add(s: Drawn) {
    const box = this.ink(s).box;
    const tiles = new Map<string, Tile>();
    for (const [key, tile] of this.tiles) {
      if (!hits(box, this.place(key))) continue;
      const was = blank(this.clock);
      if (was) {
        was.context.drawImage(tile.canvas, 0, 0);
        tiles.set(key, was);
      }
      this.lay(tile.context, s, key);
    }
    this.before = [...this.before.slice(1 - STEPS), { stroke: s.key, tiles }];
  }

  private lay(c: OffscreenCanvasRenderingContext2D, s: Drawn, key: string) {
    const [i = 0, j = 0] = key.split(' ').map(Number);
    const [a, b, m, d] = this.m;
    c.setTransform(a, b, m, d, -i * SIDE, -j * SIDE);
    const scale = Math.hypot(a, b);
    const ink = this.ink(s);
    if (ink.picture) {
      c.drawImage(ink.picture.canvas, ink.picture.x, ink.picture.y, ink.picture.width, ink.picture.height);
      return;
    }
    c.fillStyle = s.colour;
    if (ink.blur > 0) c.filter = `blur(${ink.blur * scale}px)`;
    for (const [d, alpha] of ink.paths) {
      c.globalAlpha = alpha;
      c.fill(d);
    }
    c.globalAlpha = 1;
    if (ink.blur > 0) c.filter = 'none';
  }

  /** Paints what is seen: the page's origin at x, y device px, `m` device px to a mm. */
  paint(c: CanvasRenderingContext2D, m: Linear, x: number, y: number) {
    if (m.some((v, k) => v !== this.m[k])) {
      this.tiles.clear();
      this.before = [];
      this.m = m;
    }
    this.clock++;
    // On whole pixels, so that a tile is carried over as it is.
    const [ox, oy] = [Math.round(x), Math.round(y)];
    c.setTransform(1, 0, 0, 1, 0, 0);
    const [i0, i1] = [Math.floor(-ox / SIDE), Math.floor((c.canvas.width - 1 - ox) / SIDE)];
    const [j0, j1] = [Math.floor(-oy / SIDE), Math.floor((c.canvas.height - 1 - oy) / SIDE)];
    for (let i = i0; i <= i1; i++)
      for (let j = j0; j <= j1; j++) {
        const key = `${i} ${j}`;
        let tile = this.tiles.get(key);
        if (!tile) {
          const box = this.place(key);
          const touched = this.strokes.filter((s) => hits(this.ink(s).box, box));
          if (!touched.length) continue;
          tile = blank(this.clock);
          if (!tile) continue;
          for (const s of touched) this.lay(tile.context, s, key);
          this.tiles.set(key, tile);
        }
        tile.used = this.clock;
        c.drawImage(tile.canvas, i * SIDE + ox, j * SIDE + oy);
      }
    if (this.tiles.size > MOST_TILES) {
      const old = [...this.tiles].sort((p, q) => p[1].used - q[1].used);
      for (const [key] of old.slice(0, this.tiles.size - MOST_TILES)) this.tiles.delete(key);
    }
  }
}
