// A surface to draw on: takes every report of the stylus, inks it live, and hands the finished stroke on.
import { useCallback, useEffect, useRef } from 'react';
import { spherical } from '../../engine/prebuilt/eddymist_wasm';
import type { Engine, Live, Samples } from './engine';

/** The page's px in mm: 96 to the inch until a card says otherwise. */
export const MM_PER_PX = 25.4 / 96;

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
};

function reading(e: PointerEvent, rect: DOMRect): number[] {
  // A mouse says 0.5 by rule; that is no measured pressure.
  const pressure = e.pointerType === 'mouse' ? Number.NaN : e.pressure;
  let tilt = [Number.NaN, Number.NaN];
  if (e.pointerType === 'pen') tilt = Array.from(spherical(e.tiltX, e.tiltY));
  return [e.timeStamp, (e.clientX - rect.left) * MM_PER_PX, (e.clientY - rect.top) * MM_PER_PX, pressure, tilt[0] ?? Number.NaN, tilt[1] ?? Number.NaN];
}

export function Surface({ height, engine, strokes, onStroke, onReport, guide, colour = '#16202b', label }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const live = useRef<{ ink: Live | null; samples: number[]; pointer: number } | null>(null);

  const context = useCallback(() => {
    const c = canvas.current?.getContext('2d');
    if (!c) return null;
    const scale = window.devicePixelRatio / MM_PER_PX;
    c.setTransform(scale, 0, 0, scale, 0, 0);
    return c;
  }, []);

  const paint = useCallback(() => {
    const el = canvas.current;
    if (!el) return;
    const ratio = window.devicePixelRatio;
    const width = Math.round(el.clientWidth * ratio);
    if (el.width !== width || el.height !== Math.round(height * ratio)) {
      el.width = width;
      el.height = Math.round(height * ratio);
    }
    const c = context();
    if (!c) return;
    c.clearRect(0, 0, el.width, el.height);
    guide?.(c, el.clientWidth * MM_PER_PX, height * MM_PER_PX);
    c.fillStyle = colour;
    if (engine) for (const s of strokes) c.fill(new Path2D(engine.path(new Float64Array(s), 1)));
  }, [engine, strokes, guide, height, colour, context]);

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
    const c = context();
    for (const r of reports.length ? reports : [e]) {
      const s = reading(r, rect);
      // The same report can come twice, as a coalesced one and as the event itself.
      if (l.samples.length && (s[0] ?? 0) <= (l.samples[l.samples.length - 6] ?? 0)) continue;
      l.samples.push(...s);
      onReport?.(Number.isNaN(s[3]) ? null : (s[3] ?? 0));
      if (!l.ink || !c) continue;
      const p = l.ink.push(s[0] ?? 0, s[1] ?? 0, s[2] ?? 0, s[3] ?? Number.NaN, s[4] ?? Number.NaN, s[5] ?? Number.NaN);
      c.fillStyle = colour;
      c.beginPath();
      for (let i = 0; i < p.length; i += 2) c.lineTo(p[i] ?? 0, p[i + 1] ?? 0);
      c.fill();
    }
  };

  const end = (e: React.PointerEvent) => {
    const l = live.current;
    if (!l || l.pointer !== e.pointerId) return;
    live.current = null;
    l.ink?.free();
    if (l.samples.length >= 6) onStroke(l.samples);
    else paint();
  };

  return (
    <canvas
      ref={canvas}
      className="surface"
      style={{ height }}
      role="img"
      aria-label={label}
      onPointerDown={(e) => {
        if (live.current || e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        live.current = { ink: engine?.begin(1) ?? null, samples: [], pointer: e.pointerId };
        take(e.nativeEvent);
      }}
      onPointerMove={(e) => {
        if (live.current?.pointer === e.pointerId) take(e.nativeEvent);
      }}
      onPointerUp={end}
      onPointerCancel={end}
    />
  );
}
