// The points of one chosen line, over the page: nudged, added, taken out, and, where pressure makes it, the width pulled at each; by
// pointer and by keys.
import { useEffect, useMemo, useRef, useState } from 'react';
import { nudged, stroke_points, without_point } from '../../engine/prebuilt/eddymist_wasm';
import { type Engine, type Samples, strokePaths } from '../engine/engine';
import { linear, type Point, toPage, toScreen, type View } from '../engine/view';

/** What the points ask of what inks the line. */
export type PointInk = {
  /** The line's width at each sample, mm; none where it is not pulled here. */
  widths: ((flat: Float64Array) => Float64Array) | null;
  widened: ((flat: Float64Array, points: Uint32Array, k: number, mm: number) => Float64Array) | null;
  /** What is inked against the page's size; 1 where none is given. */
  scale?: number;
  /** The line as it would be, SVG path data in mm. */
  paths: (samples: Samples) => string[];
};
/** Of a stroke that was drawn; its width is pulled where the pen's own pressure makes it. */
export const inkOf = (engine: Engine, zoom: number, pulled: boolean): PointInk => ({
  widths: pulled ? (flat) => engine.widths(flat, zoom) : null,
  widened: (flat, points, k, mm) => engine.widened(flat, zoom, points, k, mm),
  paths: (samples) => strokePaths(engine, samples).map(([path]) => path),
});

type Props = {
  view: View;
  ink: PointInk;
  samples: Samples;
  colour: string;
  /** The stroke as it is to be: one step of the work. */
  onChange: (samples: Samples) => void;
};

/** Points lie within this of the line at first, mm. */
const WITHIN = 0.4;
/** Keys move by this on the screen, px; with shift by ten times it. */
const STEP = 1;
/** The width's handles stand off the line's edges by this on the screen, px. */
const OFF = 14;

const flatOf = (samples: Samples) => new Float64Array(samples);
const place = (s: ArrayLike<number>, i: number): Point => [s[6 * i + 1] ?? 0, s[6 * i + 2] ?? 0];

/** Square to the line at a sample, in mm of the page. */
function across(s: ArrayLike<number>, i: number): Point {
  const last = s.length / 6 - 1;
  const [a, b] = [place(s, Math.max(0, i - 2)), place(s, Math.min(last, i + 2))];
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  return [(b[1] - a[1]) / long, -(b[0] - a[0]) / long];
}

export function StrokePoints({ view, ink, samples, colour, onChange }: Props) {
  const made = useMemo(() => Array.from(stroke_points(flatOf(samples), WITHIN)), [samples]);
  const [points, setPoints] = useState<number[]>(made);
  const [draft, setDraft] = useState<Samples | null>(null);
  const [at, setAt] = useState<number | null>(null);
  const held = useRef<{ what: 'place' | 'width'; points: number[]; k: number } | null>(null);
  // A stroke that was changed otherwise has points of its own; one that was nudged here keeps those that are in hand.
  const length = useRef(samples.length);
  useEffect(() => {
    if (length.current !== samples.length) {
      setPoints(made);
      setAt(null);
    }
    length.current = samples.length;
  }, [samples, made]);
  const shown = draft ?? samples;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what inks is made anew at each render; it changes with the samples.
  const widths = useMemo(() => ink.widths?.(flatOf(shown)) ?? null, [shown]);
  const as = (flat: Float64Array): Samples => Object.assign(Array.from(flat), { zoom: samples.zoom });
  const ids = (of: number[]) => new Uint32Array(of);
  const move = (of: number[], k: number, to: Point) => as(nudged(flatOf(samples), ids(of), k, to[0], to[1]));
  const widen = (of: number[], k: number, width: number) => (ink.widened ? as(ink.widened(flatOf(samples), ids(of), k, Math.max(0.001, width))) : samples);
  const put = (to: Samples) => {
    setDraft(null);
    onChange(to);
  };
  const remove = (k: number) => {
    if (points.length < 3) return;
    const out = as(without_point(flatOf(samples), ids(points), k));
    const ends = k === 0 || k === points.length - 1;
    const first = k === 0 ? (points[1] ?? 0) : 0;
    const left = points.filter((_, i) => i !== k).map((i) => i - first);
    setPoints(left);
    length.current = ends ? out.length : samples.length;
    setAt(Math.min(k, left.length - 1));
    put(out);
  };
  const local = (e: React.PointerEvent): Point => {
    const box = e.currentTarget.closest('svg')?.getBoundingClientRect();
    return toPage(view, [e.clientX - (box?.left ?? 0), e.clientY - (box?.top ?? 0)]);
  };
  const take = (e: React.PointerEvent, what: 'place' | 'width', of: number[], k: number) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    held.current = { what, points: of, k };
    setAt(k);
    if (of !== points) setPoints(of);
  };
  const pulled = (e: React.PointerEvent): Samples | null => {
    const h = held.current;
    if (!h) return null;
    const i = h.points[h.k] ?? 0;
    const to = local(e);
    if (h.what === 'place') return move(h.points, h.k, to);
    const [from, n] = [place(samples, i), across(samples, i)];
    return widen(h.points, h.k, 2 * (Math.abs((to[0] - from[0]) * n[0] + (to[1] - from[1]) * n[1]) - OFF / view.scale));
  };
  const handlers = {
    onPointerMove: (e: React.PointerEvent) => held.current && setDraft(pulled(e)),
    onPointerUp: (e: React.PointerEvent) => {
      const to = pulled(e);
      held.current = null;
      // Pressed and let go without a pull, nothing has changed.
      if (to && draft) put(to);
      else setDraft(null);
    },
    onPointerCancel: () => {
      held.current = null;
      setDraft(null);
    },
  };
  const keys = (e: React.KeyboardEvent, k: number) => {
    const i = points[k] ?? 0;
    const by = (e.shiftKey ? 10 : 1) * STEP;
    const way = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[e.key];
    if (way) {
      const [x, y] = toScreen(view, place(samples, i));
      put(move(points, k, toPage(view, [x + (way[0] ?? 0), y + (way[1] ?? 0)])));
    } else if (e.key === '+' || e.key === '-') {
      if (!widths) return;
      put(widen(points, k, (widths[i] ?? 0) * (e.key === '+' ? 1.05 : 1 / 1.05)));
    } else if (e.key === 'Delete' || e.key === 'Backspace') remove(k);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const on = (i: number) => toScreen(view, place(shown, i));
  const [a, b, c, d] = linear(view);
  // Half way between two points a further one can be taken hold of: it is the same handle before and after.
  const handles = points.flatMap((i, k) => {
    const middle = (i + (points[k + 1] ?? i)) >> 1;
    const here: { i: number; k: number; more?: number[] } = { i, k };
    const between = { i: middle, k: k + 1, more: [...points.slice(0, k + 1), middle, ...points.slice(k + 1)] };
    return middle === i || middle === points[k + 1] ? [here] : [here, between];
  });
  const chosen = at !== null ? points[at] : undefined;
  const side = chosen === undefined || !widths ? null : { n: across(shown, chosen), half: (widths[chosen] ?? 0) / 2 };
  return (
    <svg className="stroke-points" role="group" aria-label="points of the stroke">
      {draft && (
        <g transform={`matrix(${a} ${b} ${c} ${d} ${view.x} ${view.y}) scale(${1 / (ink.scale ?? 1)})`} opacity="0.7">
          {ink.paths(draft).map((path, i) => (
            <path key={i} d={path} fill={colour} />
          ))}
        </g>
      )}
      <polyline points={Array.from({ length: shown.length / 6 }, (_, i) => on(i).join(',')).join(' ')} fill="none" stroke="var(--eddy)" />
      {handles.map(({ i, k, more }) => {
        const [x, y] = on(i);
        return (
          <circle
            key={i}
            cx={x}
            cy={y}
            r={more ? 4 : 6}
            className={more ? 'point-between' : k === at ? 'point chosen' : 'point'}
            role="button"
            tabIndex={0}
            aria-label={more ? `add a point after point ${k}` : `point ${k + 1} of ${points.length}${widths ? `, ${(widths[i] ?? 0).toFixed(2)} mm wide` : ''}`}
            onFocus={() => !more && setAt(k)}
            onPointerDown={(e) => take(e, 'place', more ?? points, k)}
            {...handlers}
            onKeyDown={(e) => {
              if (!more) keys(e, k);
              else if (e.key === 'Enter' || e.key === ' ') {
                e.preventDefault();
                setPoints(more);
                setAt(k);
              }
            }}
          />
        );
      })}
      {side &&
        chosen !== undefined &&
        at !== null &&
        [1, -1].map((s) => {
          const [px, py] = place(shown, chosen);
          const off = side.half + OFF / view.scale;
          const [x, y] = toScreen(view, [px + s * off * side.n[0], py + s * off * side.n[1]]);
          return (
            <rect
              key={s}
              x={x - 5}
              y={y - 5}
              width="10"
              height="10"
              className="point-width"
              aria-label={`width at point ${at + 1}`}
              role="slider"
              tabIndex={0}
              aria-valuemin={0}
              aria-valuenow={2 * side.half}
              aria-valuetext={`${(2 * side.half).toFixed(2)} mm`}
              onKeyDown={(e) => {
                const more = { ArrowUp: 1.05, ArrowRight: 1.05, ArrowDown: 1 / 1.05, ArrowLeft: 1 / 1.05 }[e.key];
                if (!more) return;
                e.preventDefault();
                e.stopPropagation();
                put(widen(points, at, 2 * side.half * more));
              }}
              onPointerDown={(e) => take(e, 'width', points, at)}
              {...handlers}
            />
          );
        })}
    </svg>
  );
}
