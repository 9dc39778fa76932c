// A surface to draw on: takes every report of the stylus, inks it live, and hands the finished stroke on.
import { useCallback, useEffect, useRef } from 'react';
import { spherical } from '../../engine/prebuilt/eddymist_wasm';
import { type Engine, type Live, MM_PER_PX, type Samples, strokePaths, strokePicture } from './engine';

type Props = {
  height: number;
  engine: Engine | null;
  /** Finished strokes in mm. */
  strokes: Samples[];
  onStroke: (samples: Samples) => void;
  /** Every report, for a meter. */
  onReport?: (pressure: number | null) => void;
  guide?: (context: CanvasRenderingContext2D, width: number, height: number) => void;
  colour?: string;
  label: string;
  /** Screen size over page size. */
  zoom?: number;
};

function reading(e: PointerEvent, rect: DOMRect, mm: number): number[] {
  // A mouse says 0.5 by rule; that is no measured pressure.
  const pressure = e.pointerType === 'mouse' ? Number.NaN : e.pressure;
  let tilt = [Number.NaN, Number.NaN];
  if (e.pointerType === 'pen') tilt = Array.from(spherical(e.tiltX, e.tiltY));
  return [e.timeStamp, (e.clientX - rect.left) * mm, (e.clientY - rect.top) * mm, pressure, tilt[0] ?? Number.NaN, tilt[1] ?? Number.NaN];
}

export function Surface({ height, engine, strokes, onStroke, onReport, guide, colour = '#16202b', label, zoom = 1 }: Props) {
  const mm = MM_PER_PX / zoom;
  const canvas = useRef<HTMLCanvasElement>(null);
  // The stroke while it is drawn lies on a sheet of its own, so that its pieces do not build up on one another.
  const sheet = useRef<HTMLCanvasElement>(null);
  const live = useRef<{ ink: Live | null; samples: number[]; pointer: number } | null>(null);

  const context = useCallback(
    (of: HTMLCanvasElement | null) => {
      const c = of?.getContext('2d');
      if (!c) return null;
      const scale = window.devicePixelRatio / mm;
      c.setTransform(scale, 0, 0, scale, 0, 0);
      return c;
    },
    [mm],
  );

  const paint = useCallback(() => {
    const el = canvas.current;
    if (!el) return;
    const ratio = window.devicePixelRatio;
    const width = Math.round(el.clientWidth * ratio);
    for (const each of [el, sheet.current]) {
      if (each && (each.width !== width || each.height !== Math.round(height * ratio))) {
        each.width = width;
        each.height = Math.round(height * ratio);
      }
    }
    const c = context(el);
    if (!c) return;
    c.clearRect(0, 0, el.width, el.height);
    context(sheet.current)?.clearRect(0, 0, el.width, el.height);
    guide?.(c, el.clientWidth * mm, height * mm);
    c.fillStyle = colour;
    if (!engine) return;
    const blur = engine.blur() / mm;
    c.filter = blur > 0 ? `blur(${blur * ratio}px)` : 'none';
    for (const s of strokes) {
      const picture = strokePicture(engine, s, ratio / mm, colour);
      if (picture) {
        c.drawImage(picture.canvas, picture.x, picture.y, picture.width, picture.height);
        continue;
      }
      for (const [d, alpha] of strokePaths(engine, s)) {
        c.globalAlpha = alpha;
        c.fill(new Path2D(d));
      }
    }
    c.globalAlpha = 1;
    c.filter = 'none';
  }, [engine, strokes, guide, height, colour, context, mm]);

  useEffect(() => {
    paint();
    window.addEventListener('resize', paint);
    return () => window.removeEventListener('resize', paint);
  }, [paint]);

  const take = (e: PointerEvent) => {
    const el = canvas.current;
    const l = live.current;
    if (!el || !l) return;
    const rect = el.getBoundingClientRect();
    const reports = e.getCoalescedEvents?.() ?? [];
    const c = context(sheet.current);
    for (const r of reports.length ? reports : [e]) {
      const s = reading(r, rect, mm);
      // The same report can come twice, as a coalesced one and as the event itself.
      if (l.samples.length && (s[0] ?? 0) <= (l.samples[l.samples.length - 6] ?? 0)) continue;
      l.samples.push(...s);
      onReport?.(Number.isNaN(s[3]) ? null : (s[3] ?? 0));
      if (!l.ink || !c) continue;
      const p = l.ink.push(s[0] ?? 0, s[1] ?? 0, s[2] ?? 0, s[3] ?? Number.NaN, s[4] ?? Number.NaN, s[5] ?? Number.NaN);
      c.fillStyle = colour;
      c.beginPath();
      // Each polygon ends with a pair of NaN.
      let fresh = true;
      for (let i = 0; i < p.length; i += 2) {
        const [x = 0, y = 0] = [p[i], p[i + 1]];
        if (Number.isNaN(x)) fresh = true;
        else if (fresh) c.moveTo(x, y);
        else c.lineTo(x, y);
        if (!Number.isNaN(x)) fresh = false;
      }
      c.fill();
    }
  };

  const end = (e: React.PointerEvent) => {
    const l = live.current;
    if (!l || l.pointer !== e.pointerId) return;
    live.current = null;
    l.ink?.free();
    if (l.samples.length >= 6) onStroke(Object.assign(l.samples, { zoom }));
    else paint();
  };

  const soft = engine ? engine.blur() / mm : 0;
  return (
    <div className="position-relative">
      <canvas
        ref={canvas}
        className="surface"
        style={{ height }}
        role="img"
        aria-label={label}
        onPointerDown={(e) => {
          if (live.current || e.button !== 0) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          live.current = { ink: engine?.begin(zoom) ?? null, samples: [], pointer: e.pointerId };
          take(e.nativeEvent);
        }}
        onPointerMove={(e) => {
          if (live.current?.pointer === e.pointerId) take(e.nativeEvent);
        }}
        onPointerUp={end}
        onPointerCancel={end}
      />
      <canvas
        ref={sheet}
        aria-hidden
        className="surface position-absolute top-0 start-0"
        style={{ height, pointerEvents: 'none', background: 'none', opacity: engine?.opacity() ?? 1, filter: soft > 0 ? `blur(${soft}px)` : undefined }}
      />
    </div>
  );
}
