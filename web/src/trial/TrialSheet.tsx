// The sheet of a trial page: rough and neighbours below, finished strokes as they lie, the stroke in hand on a sheet of its own.
import { useCallback, useEffect, useRef } from 'react';
import { spherical } from '../../engine/prebuilt/eddymist_wasm';
import type { Engine, Live, Samples } from '../engine/engine';
import { strokePaths, strokePicture } from '../engine/engine';

/** A finished stroke as it is drawn: what inks it, and in which colour. */
export type Drawn = { key: string; engine: Engine; samples: Samples; colour: string };

type Props = {
  width: number;
  height: number;
  pxPerMm: number;
  zoom: number;
  strokes: Drawn[];
  chosen: Set<number>;
  engine: Engine | null;
  colour: string;
  /** Whether the pointer draws, or points at strokes. */
  drawing: boolean;
  grid: boolean;
  hard: boolean;
  /** What a straight edge or an arc makes of the stroke, seen while it is drawn. */
  right?: (samples: Samples) => Samples;
  /** What stands on the line beside the pen. */
  tag: React.ReactNode;
  onStroke: (samples: Samples) => void;
  /** The stroke in hand, now and then. */
  onLive: (samples: Samples) => void;
  onPoint: (at: [number, number], add: boolean) => void;
  onPull: (from: [number, number], to: [number, number]) => void;
  children: React.ReactNode;
};

/** Live figures are made at most so often, ms. */
const LIVE_MS = 160;

export function TrialSheet(p: Props) {
  const ink = useRef<HTMLCanvasElement>(null);
  const sheet = useRef<HTMLCanvasElement>(null);
  // What is chosen is marked on a sheet of its own: the one of the stroke in hand is the pen's alone.
  const marks = useRef<HTMLCanvasElement>(null);
  const live = useRef<{ ink: Live | null; samples: Samples; pointer: number; told: number } | null>(null);
  const held = useRef<[number, number] | null>(null);
  const tag = useRef<HTMLDivElement>(null);
  const frame = useRef(0);
  const cache = useRef<Map<string, [Path2D, number][]>>(new Map());
  const laid = useRef<string[]>([]);

  const context = useCallback(
    (of: HTMLCanvasElement | null) => {
      const c = of?.getContext('2d');
      c?.setTransform(p.pxPerMm, 0, 0, p.pxPerMm, 0, 0);
      return c ?? null;
    },
    [p.pxPerMm],
  );

  const lay = useCallback(
    (c: CanvasRenderingContext2D, s: Drawn) => {
      c.fillStyle = s.colour;
      const picture = strokePicture(s.engine, s.samples, p.pxPerMm, s.colour);
      if (picture) {
        c.drawImage(picture.canvas, picture.x, picture.y, picture.width, picture.height);
        return;
      }
      let paths = cache.current.get(s.key);
      if (!paths) {
        paths = strokePaths(s.engine, s.samples).map(([d, alpha]) => [new Path2D(d), alpha]);
        cache.current.set(s.key, paths);
      }
      const blur = s.engine.blur() * p.pxPerMm;
      c.filter = blur > 0 ? `blur(${blur}px)` : 'none';
      for (const [d, alpha] of paths) {
        c.globalAlpha = alpha;
        c.fill(d);
      }
      c.globalAlpha = 1;
      c.filter = 'none';
    },
    [p.pxPerMm],
  );

  // A new stroke is laid on what is there; anything else lays all of them anew.
  useEffect(() => {
    const c = context(ink.current);
    if (!c || !ink.current) return;
    const keys = p.strokes.map((s) => s.key);
    const grows = laid.current.length <= keys.length && laid.current.every((k, i) => k === keys[i]);
    if (!grows) c.clearRect(0, 0, p.width / p.pxPerMm, p.height / p.pxPerMm);
    for (const s of p.strokes.slice(grows ? laid.current.length : 0)) lay(c, s);
    laid.current = keys;
  }, [p.strokes, p.width, p.height, p.pxPerMm, context, lay]);

  useEffect(() => {
    const s = context(marks.current);
    s?.clearRect(0, 0, p.width / p.pxPerMm, p.height / p.pxPerMm);
    if (s) {
      s.strokeStyle = '#0f5a5f';
      s.lineWidth = 2 / p.pxPerMm;
      for (const i of p.chosen) {
        const one = p.strokes[i]?.samples ?? [];
        s.beginPath();
        for (let k = 0; k + 2 < one.length; k += 6) s.lineTo(one[k + 1] ?? 0, one[k + 2] ?? 0);
        s.stroke();
      }
    }
  }, [p.strokes, p.chosen, p.width, p.height, p.pxPerMm, context]);

  const place = (e: { clientX: number; clientY: number }, rect: DOMRect): [number, number] => [
    ((e.clientX - rect.left) / rect.width) * (p.width / p.pxPerMm),
    ((e.clientY - rect.top) / rect.height) * (p.height / p.pxPerMm),
  ];
  /** The stroke in hand as the straight edge or the arc puts it, whole, once a frame. */
  const layRight = () => {
    const [l, c] = [live.current, context(sheet.current)];
    if (!l || !c || !p.right || !p.engine || l.samples.length < 12) return;
    c.clearRect(0, 0, p.width / p.pxPerMm, p.height / p.pxPerMm);
    c.fillStyle = p.colour;
    for (const [d] of strokePaths(p.engine, p.right(l.samples))) c.fill(new Path2D(d));
  };
  const takeReports = (e: PointerEvent, el: HTMLCanvasElement) => {
    const l = live.current;
    if (!l) return;
    const rect = el.getBoundingClientRect();
    const reports = e.getCoalescedEvents?.() ?? [];
    const c = context(sheet.current);
    if (c) {
      c.fillStyle = p.colour;
      c.beginPath();
    }
    for (const r of reports.length ? reports : [e]) {
      if (l.samples.length && r.timeStamp <= (l.samples[l.samples.length - 6] ?? 0)) continue;
      const [x, y] = place(r, rect);
      const tilt = r.pointerType === 'pen' ? Array.from(spherical(r.tiltX, r.tiltY)) : [];
      const s = [r.timeStamp, x, y, r.pointerType === 'mouse' ? Number.NaN : r.pressure, tilt[0] ?? Number.NaN, tilt[1] ?? Number.NaN] as const;
      l.samples.push(...s);
      if (p.right) continue;
      const pieces = l.ink?.push(...s);
      if (!pieces || !c) continue;
      let fresh = true;
      for (let i = 0; i < pieces.length; i += 2) {
        const [px = 0, py = 0] = [pieces[i], pieces[i + 1]];
        if (Number.isNaN(px)) fresh = true;
        else {
          if (fresh) c.moveTo(px, py);
          else c.lineTo(px, py);
          fresh = false;
        }
      }
    }
    c?.fill();
    if (p.right) {
      cancelAnimationFrame(frame.current);
      frame.current = requestAnimationFrame(layRight);
    }
    if (tag.current) {
      const [x, y] = [e.clientX - rect.left, e.clientY - rect.top];
      // Beside the pen where the hand does not lie: above it, on the side away from the page's edge.
      tag.current.style.transform = `translate(${x > rect.width - 190 ? x - 180 : x + 18}px, ${Math.max(0, y - 34)}px)`;
    }
    if (performance.now() - l.told > LIVE_MS) {
      l.told = performance.now();
      p.onLive(p.right ? p.right(l.samples) : l.samples);
    }
  };
  const end = (e: React.PointerEvent<HTMLCanvasElement>) => {
    const l = live.current;
    if (l && l.pointer === e.pointerId) {
      live.current = null;
      l.ink?.free();
      context(sheet.current)?.clearRect(0, 0, p.width / p.pxPerMm, p.height / p.pxPerMm);
      if (l.samples.length >= 6) p.onStroke(Object.assign(l.samples, { zoom: p.zoom }));
    }
    if (held.current) {
      const to = place(e, e.currentTarget.getBoundingClientRect());
      const from = held.current;
      held.current = null;
      if (Math.hypot(to[0] - from[0], to[1] - from[1]) * p.pxPerMm * p.zoom > 4) p.onPull(from, to);
      else p.onPoint(to, e.shiftKey);
    }
  };
  const size = { width: p.width * p.zoom, height: p.height * p.zoom };
  return (
    <div className="trial-scroll">
      <div style={{ position: 'relative', ...size, background: '#fff' }}>
        {p.children}
        <canvas ref={ink} width={p.width} height={p.height} className={p.hard ? 'hard' : ''} style={{ position: 'absolute', inset: 0, ...size }} aria-hidden />
        <canvas ref={marks} width={p.width} height={p.height} style={{ position: 'absolute', inset: 0, ...size }} aria-hidden />
        <canvas
          ref={sheet}
          width={p.width}
          height={p.height}
          role="img"
          aria-label="trial page"
          style={{
            position: 'absolute',
            inset: 0,
            ...size,
            touchAction: 'none',
            cursor: p.drawing ? 'crosshair' : 'pointer',
            opacity: p.engine?.opacity() ?? 1,
          }}
          onPointerDown={(e) => {
            if (live.current || held.current || e.button !== 0) return;
            e.currentTarget.setPointerCapture(e.pointerId);
            if (p.drawing) {
              live.current = { ink: p.engine?.begin(p.zoom) ?? null, samples: [], pointer: e.pointerId, told: 0 };
              takeReports(e.nativeEvent, e.currentTarget);
            } else held.current = place(e, e.currentTarget.getBoundingClientRect());
          }}
          onPointerMove={(e) => live.current?.pointer === e.pointerId && takeReports(e.nativeEvent, e.currentTarget)}
          onPointerUp={end}
          onPointerCancel={end}
        />
        <div ref={tag} className="trial-tag" aria-hidden>
          {p.tag}
        </div>
        {p.grid && p.zoom >= 4 && <div className="pixel-grid" style={{ ...size, backgroundSize: `${p.zoom}px ${p.zoom}px` }} aria-hidden />}
      </div>
    </div>
  );
}
