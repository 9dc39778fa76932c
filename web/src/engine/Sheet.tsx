// A surface to draw on: every report of the stylus is taken as it comes and inked at once, and what the browser foretells is shown before it; the
// nib goes with the pointer; finished strokes lie in tiles below. Seen through a view that
// pans, zooms, turns and mirrors; with a page it has a size, without one it is as large as it is seen.
import { useCallback, useImperativeHandle, useLayoutEffect, useRef } from 'react';
import { type Engine, MM_PER_PX, type Samples } from './engine';
import { LiveStroke, ring } from './live';
import { meaning } from './pointers';
import { type Drawn, Tiles } from './tiles';
import { useInAir } from './useInAir';
import { type SheetHandle, useSeen } from './useSeen';
import { apart, fitted, linear, type Point, pinched, toPage, type View } from './view';

export type { Drawn, SheetHandle };

type Props = {
  ref?: React.Ref<SheetHandle>;
  label: string;
  height: number | string;
  /** Size of the page, mm; without it the sheet is unbounded, its origin at the upper left. */
  page?: Point;
  /** Moving the view is off: what is drawn is measured in mm of the surface. */
  fixed?: boolean;
  /** Scale to begin with where there is no page, px to a mm. */
  scale?: number;
  strokes: Drawn[];
  engine: Engine | null;
  colour?: string;
  /** `ink` draws, `point` points at strokes and pulls, `look` only moves the view. */
  tool?: 'ink' | 'point' | 'look';
  /** Painted under and over the ink, in mm. */
  under?: (c: CanvasRenderingContext2D, size: Point) => void;
  over?: (c: CanvasRenderingContext2D, size: Point) => void;
  /** The page as it is delivered: ink at so many px to the mm, its pixels enlarged. */
  delivered?: number | null;
  /** What a straight edge or an arc makes of the stroke. */
  right?: (samples: Samples) => Samples;
  /** What stands beside the pen. */
  tag?: React.ReactNode;
  onStroke: (samples: Samples) => void;
  onReport?: (pressure: number | null) => void;
  onLive?: (samples: Samples) => void;
  onPoint?: (at: Point, add: boolean) => void;
  onPull?: (from: Point, to: Point) => void;
  /** Strokes that the eraser touched, by their places. */
  onErase?: (which: number[]) => void;
  onView?: (v: View) => void;
};

/** The line in hand is told of at most so often, ms. */
const LIVE_MS = 160;

export function Sheet(p: Props) {
  const box = useRef<HTMLDivElement>(null);
  const base = useRef<HTMLCanvasElement>(null);
  const live = useRef<HTMLCanvasElement>(null);
  const ahead = useRef<HTMLCanvasElement>(null);
  const tag = useRef<HTMLDivElement>(null);
  const tiles = useRef(new Tiles());
  const placed = useRef(false);
  const frame = useRef(0);
  const painter = useRef<() => void>(() => undefined);
  const stroke = useRef<{ ink: LiveStroke; pointer: number; kind: string; told: number } | null>(null);
  const erasing = useRef<{ pointer: number; which: Set<number> } | null>(null);
  const held = useRef<{ pointer: number; at: Point } | null>(null);
  const moving = useRef<Map<number, Point>>(new Map());
  const [pageW, pageH] = p.page ?? [0, 0];

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is asked for at the next frame is what is there then
  const soon = useCallback(() => {
    cancelAnimationFrame(frame.current);
    frame.current = requestAnimationFrame(() => {
      painter.current();
      if (!stroke.current) LiveStroke.clear(live.current);
      else if (live.current) stroke.current.ink.repaint(live.current, view.current);
    });
  }, []);
  const { view, see, handle, keys } = useSeen(box, p, soon);
  useImperativeHandle(p.ref, () => handle);

  const paint = () => {
    const [el, over, now] = [base.current, live.current, p];
    const c = el?.getContext('2d');
    if (!el || !over || !c) return;
    const ratio = window.devicePixelRatio;
    const [w, h] = [Math.round(el.clientWidth * ratio), Math.round(el.clientHeight * ratio)];
    if (el.width !== w || el.height !== h) {
      for (const each of [el, over, ahead.current]) if (each) [each.width, each.height] = [w, h];
      stroke.current?.ink.repaint(over, view.current);
    }
    const v = view.current;
    const [a, b, m, d] = linear(v);
    const size: Point = now.page ?? [el.clientWidth / v.scale, el.clientHeight / v.scale];
    const inPage = () => c.setTransform(a * ratio, b * ratio, m * ratio, d * ratio, Math.round(v.x * ratio), Math.round(v.y * ratio));
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.clearRect(0, 0, w, h);
    c.save();
    if (now.page) {
      inPage();
      c.fillStyle = '#fff';
      c.fillRect(0, 0, ...now.page);
      c.beginPath();
      c.rect(0, 0, ...now.page);
      c.clip();
    }
    inPage();
    now.under?.(c, size);
    if (now.delivered && now.page) {
      // Ink at the page's own pixels, then enlarged as it is.
      const k = now.delivered;
      const own = new OffscreenCanvas(Math.round(now.page[0] * k), Math.round(now.page[1] * k));
      const o = own.getContext('2d') as unknown as CanvasRenderingContext2D;
      tiles.current.paint(o, [k, 0, 0, k], 0, 0);
      inPage();
      c.imageSmoothingEnabled = false;
      c.drawImage(own, 0, 0, ...now.page);
      c.imageSmoothingEnabled = true;
    } else tiles.current.paint(c, [a * ratio, b * ratio, m * ratio, d * ratio], v.x * ratio, v.y * ratio);
    inPage();
    now.over?.(c, size);
    c.restore();
    box.current?.setAttribute('data-view', [a, b, m, d, Math.round(v.x * ratio) / ratio, Math.round(v.y * ratio) / ratio].join(' '));
  };
  painter.current = paint;

  // biome-ignore lint/correctness/useExhaustiveDependencies: a page of another size is seen whole again
  useLayoutEffect(() => {
    placed.current = false;
  }, [pageW, pageH]);
  // Before the eye sees anything: what was live is finished ink in the same frame.
  useLayoutEffect(() => {
    tiles.current.set(p.strokes);
    if (!placed.current && base.current?.clientWidth) {
      placed.current = true;
      const v = p.page ? fitted(...p.page, [base.current.clientWidth, base.current.clientHeight]) : view.current;
      view.current = v;
      p.onView?.(v);
    }
    paint();
    if (!stroke.current) LiveStroke.clear(live.current);
  });
  const local = (e: { clientX: number; clientY: number }): Point => {
    const r = base.current?.getBoundingClientRect();
    return [e.clientX - (r?.left ?? 0), e.clientY - (r?.top ?? 0)];
  };
  const erase = (e: PointerEvent) => {
    const at = toPage(view.current, local(e));
    const near = Math.max(0.6, 6 / view.current.scale);
    const touches = (s: Drawn) => {
      const [l, t, r, b] = tiles.current.box(s);
      if (at[0] < l - near || at[0] > r + near || at[1] < t - near || at[1] > b + near) return false;
      for (let k = 0; k + 2 < s.samples.length; k += 6) if (apart(s.samples, k, at) < near) return true;
      return false;
    };
    p.strokes.forEach((s, i) => {
      if (touches(s)) erasing.current?.which.add(i);
    });
  };
  const drop = () => {
    stroke.current?.ink.free();
    stroke.current = null;
    for (const each of [live, ahead]) LiveStroke.clear(each.current);
  };
  /** What goes with the pointer and is taken back with its next report: ink that is foretold, and the nib. */
  const goWith = (e: PointerEvent) => {
    const el = ahead.current;
    if (!el) return;
    LiveStroke.clear(el);
    if (stroke.current?.pointer === e.pointerId) stroke.current.ink.foretell(e, el, view.current, local);
    if (p.engine && (p.tool ?? 'ink') === 'ink' && e.pointerType !== 'touch') ring(p.engine, e, el, view.current, local);
  };
  /** The stroke in hand ends here: it is ink, unless it is no more than a touch. */
  const lift = () => {
    const s = stroke.current;
    if (!s) return;
    if (s.ink.samples.length < 6) return drop();
    stroke.current = null;
    s.ink.free();
    p.onStroke(Object.assign(s.ink.samples, { zoom: view.current.scale * MM_PER_PX }));
    // Where nothing came of it, nothing stays.
    soon();
  };
  const takeReports = (e: PointerEvent) => {
    const [s, el] = [stroke.current, live.current];
    if (!s || !el) return;
    s.ink.take(e, el, view.current, local, p.onReport);
    if (tag.current) {
      // Beside the pen where the hand does not lie: above it, on the side away from the edge.
      const [x, y] = local(e);
      tag.current.style.transform = `translate(${x > el.clientWidth - 190 ? x - 180 : x + 18}px, ${Math.max(0, y - 34)}px)`;
    }
    if (p.onLive && performance.now() - s.told > LIVE_MS) {
      s.told = performance.now();
      p.onLive(p.right ? p.right(s.ink.samples) : s.ink.samples);
    }
  };
  const down = (e: React.PointerEvent<HTMLCanvasElement>) => {
    const what = p.tool === 'look' && e.button === 0 ? 'move' : meaning(e.nativeEvent);
    // A stroke of a finger that lay there before the pen came is none: it was the hand.
    if (e.pointerType === 'pen' && stroke.current?.kind === 'touch') drop();
    if (what === 'nothing' || stroke.current || erasing.current || held.current) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    if (what === 'move' || (e.pointerType === 'touch' && moving.current.size > 0)) {
      if (!p.fixed) moving.current.set(e.pointerId, local(e));
    } else if (what === 'erase') {
      if (!p.onErase) return;
      erasing.current = { pointer: e.pointerId, which: new Set() };
      erase(e.nativeEvent);
    } else if (p.tool === 'point') held.current = { pointer: e.pointerId, at: toPage(view.current, local(e)) };
    else {
      const ink = new LiveStroke(p.engine, p.colour ?? '#16202b', view.current.scale * MM_PER_PX, p.right);
      stroke.current = { ink, pointer: e.pointerId, kind: e.pointerType, told: 0 };
      takeReports(e.nativeEvent);
    }
  };
  const move = (e: React.PointerEvent<HTMLCanvasElement>) => {
    if (stroke.current?.pointer === e.pointerId) takeReports(e.nativeEvent);
    else if (erasing.current?.pointer === e.pointerId) erase(e.nativeEvent);
    else if (moving.current.has(e.pointerId)) {
      const [was, is] = [[...moving.current.values()], local(e)];
      const at = [...moving.current.keys()].indexOf(e.pointerId);
      const to = was.map((q, i) => (i === at ? is : q));
      moving.current.set(e.pointerId, is);
      const [p0, p1, q0, q1] = [was[0], was[1], to[0], to[1]];
      if (p0 && p1 && q0 && q1) see(pinched(view.current, [p0, p1], [q0, q1]));
      else if (p0 && q0) see({ ...view.current, x: view.current.x + q0[0] - p0[0], y: view.current.y + q0[1] - p0[1] });
    }
    goWith(e.nativeEvent);
  };
  const up = (e: React.PointerEvent<HTMLCanvasElement>, cancelled: boolean) => {
    moving.current.delete(e.pointerId);
    if (stroke.current?.pointer === e.pointerId) {
      if (cancelled) return drop();
      lift();
      goWith(e.nativeEvent);
    }
    if (erasing.current?.pointer === e.pointerId) {
      const which = [...erasing.current.which];
      erasing.current = null;
      if (which.length && !cancelled) p.onErase?.(which);
    }
    if (held.current?.pointer === e.pointerId) {
      const [from, to] = [held.current.at, toPage(view.current, local(e))];
      held.current = null;
      if (cancelled) return;
      if (Math.hypot(to[0] - from[0], to[1] - from[1]) * view.current.scale > 4) p.onPull?.(from, to);
      else p.onPoint?.(to, e.shiftKey);
    }
  };
  useInAir(live, {
    report: (e) => {
      if (stroke.current?.pointer === e.pointerId) takeReports(e);
    },
    lift,
  });
  const soft = (p.engine?.blur() ?? 0) * view.current.scale;
  const layer: React.CSSProperties = { position: 'absolute', inset: 0, width: '100%', height: '100%' };
  return (
    <div
      ref={box}
      className="sheet"
      style={{ height: p.height }}
      tabIndex={p.fixed ? undefined : 0}
      role="group"
      aria-label={p.fixed ? 'surface to draw on' : `view of the ${p.label}`}
      onKeyDown={keys}
    >
      <canvas ref={base} style={layer} aria-hidden data-ink />
      <canvas
        ref={live}
        role="img"
        aria-label={p.label}
        style={{
          ...layer,
          touchAction: 'none',
          cursor: p.tool === 'point' ? 'pointer' : p.tool === 'look' ? 'grab' : 'crosshair',
          opacity: p.engine?.opacity() ?? 1,
          filter: soft > 0 ? `blur(${soft}px)` : undefined,
        }}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={(e) => up(e, false)}
        onPointerCancel={(e) => up(e, true)}
        onPointerLeave={() => !stroke.current && LiveStroke.clear(ahead.current)}
        onContextMenu={(e) => e.preventDefault()}
      />
      <canvas ref={ahead} style={{ ...layer, pointerEvents: 'none' }} aria-hidden data-ahead />
      {p.tag !== undefined && (
        <div ref={tag} className="trial-tag" aria-hidden>
          {p.tag}
        </div>
      )}
    </div>
  );
}
