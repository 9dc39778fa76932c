// The stroke in hand: its reports, and its ink as it grows.
import { spherical } from '../../engine/prebuilt/eddymist_wasm';
import { type Engine, type Live, type Samples, strokePaths } from './engine';
import { linear, type Point, toPage, type View } from './view';

/** A canvas that strokes grow on: where the browser can, it is shown without waiting for the page. */
const context = (el: HTMLCanvasElement) => el.getContext('2d', { desynchronized: true });

/** Sets a canvas so that mm are drawn on. */
function inPage(el: HTMLCanvasElement, v: View) {
  const c = context(el);
  const ratio = window.devicePixelRatio;
  const [a, b, m, d] = linear(v);
  c?.setTransform(a * ratio, b * ratio, m * ratio, d * ratio, Math.round(v.x * ratio), Math.round(v.y * ratio));
  return c;
}

/** One report as six numbers. A mouse says 0.5 by rule; that is no measured pressure. A turned or mirrored view turns the stylus' azimuth with it. */
function reported(r: PointerEvent, v: View, local: (e: PointerEvent) => Point) {
  const [x, y] = toPage(v, local(r));
  const tilt = r.pointerType === 'pen' ? Array.from(spherical(r.tiltX, r.tiltY)) : [];
  return [r.timeStamp, x, y, r.pointerType === 'mouse' ? Number.NaN : r.pressure, turned(tilt[0], v), tilt[1] ?? Number.NaN] as const;
}

export class LiveStroke {
  readonly samples: Samples = [];
  private ink: Live | null;
  private frame = 0;

  constructor(
    private readonly engine: Engine | null,
    private readonly colour: string,
    zoom: number,
    private readonly right?: (samples: Samples) => Samples,
  ) {
    this.ink = engine?.begin(zoom) ?? null;
  }

  static clear(el: HTMLCanvasElement | null) {
    const c = el && context(el);
    c?.setTransform(1, 0, 0, 1, 0, 0);
    if (el) c?.clearRect(0, 0, el.width, el.height);
  }

  /** Takes an event's reports, and inks what they add. */
  take(e: PointerEvent, el: HTMLCanvasElement, v: View, local: (e: PointerEvent) => Point, onReport?: (pressure: number | null) => void) {
    const reports = e.getCoalescedEvents?.() ?? [];
    const c = inPage(el, v);
    if (c) {
      c.fillStyle = this.colour;
      c.beginPath();
    }
    for (const r of reports.length ? reports : [e]) {
      // The same report can come twice or three times: as it arrives, as a coalesced one, as the event itself.
      if (this.samples.length && r.timeStamp <= (this.samples[this.samples.length - 6] ?? 0)) continue;
      const s = reported(r, v, local);
      this.samples.push(...s);
      onReport?.(Number.isNaN(s[3]) ? null : s[3]);
      if (!this.right && c) outline(c, this.ink?.push(...s));
    }
    if (!this.right) c?.fill();
    else {
      cancelAnimationFrame(this.frame);
      this.frame = requestAnimationFrame(() => this.repaint(el, v));
    }
  }

  /** Ink where the browser foretells the pen to be next: on a canvas of its own, taken back with the next report. */
  foretell(e: PointerEvent, el: HTMLCanvasElement, v: View, local: (e: PointerEvent) => Point) {
    if (this.right || !this.ink) return;
    const last = this.samples[this.samples.length - 6] ?? 0;
    const next = (e.getPredictedEvents?.() ?? []).filter((r) => r.timeStamp > last).flatMap((r) => reported(r, v, local));
    const c = next.length ? inPage(el, v) : null;
    if (!c) return;
    c.fillStyle = this.colour;
    c.beginPath();
    outline(c, this.ink.ahead(new Float64Array(next)));
    c.fill();
  }

  /** The whole of it again: as an edge puts it, or in another view. */
  repaint(el: HTMLCanvasElement, v: View) {
    LiveStroke.clear(el);
    const c = inPage(el, v);
    if (!c || !this.engine || this.samples.length < 12) return;
    c.fillStyle = this.colour;
    for (const [d] of strokePaths(this.engine, this.right ? this.right(this.samples) : this.samples)) c.fill(new Path2D(d));
  }

  free() {
    cancelAnimationFrame(this.frame);
    this.ink?.free();
    this.ink = null;
  }
}

/** The nib about the pointer, at its size and angle in this view: of a pen as hard as it presses, else at normal effort. */
export function ring(engine: Engine, e: PointerEvent, el: HTMLCanvasElement, v: View, local: (e: PointerEvent) => Point) {
  const c = inPage(el, v);
  if (!c) return;
  const [, x, y, pressure, azimuth, elevation] = reported(e, v, local);
  c.translate(x, y);
  c.beginPath();
  outline(c, engine.nib(e.buttons && pressure > 0 ? pressure : Number.NaN, azimuth, elevation));
  c.closePath();
  // Seen on paper and on ink: a light line about a dark one.
  for (const [width, colour] of [
    [2.5, 'rgba(255, 255, 255, 0.8)'],
    [1, 'rgba(22, 32, 43, 0.85)'],
  ] as const) {
    c.lineWidth = width / v.scale;
    c.strokeStyle = colour;
    c.stroke();
  }
}

function turned(azimuth: number | undefined, v: View) {
  if (azimuth === undefined) return Number.NaN;
  // Azimuths run counter-clockwise, a view's turn clockwise.
  const own = azimuth + (v.turn * 180) / Math.PI;
  return (((v.mirror ? 180 - own : own) % 360) + 360) % 360;
}

/** Adds pieces to the path: x, y pairs, each polygon ended by a pair of NaN. */
function outline(c: CanvasRenderingContext2D, pieces: Float64Array | undefined) {
  if (!pieces) return;
  let fresh = true;
  for (let i = 0; i < pieces.length; i += 2) {
    const [x = 0, y = 0] = [pieces[i], pieces[i + 1]];
    if (Number.isNaN(x)) fresh = true;
    else {
      if (fresh) c.moveTo(x, y);
      else c.lineTo(x, y);
      fresh = false;
    }
  }
}
