// How a drawing is seen: whole, or a part of it, zoomed and moved by wheel, two fingers, the second button and keys, down to its pixels.
import { useEffect, useRef, useState } from 'react';

type Point = [number, number];
/** The part that is seen: its upper left corner in px of the drawing, and how many times as large as the whole it is shown. */
type Part = { x: number; y: number; zoom: number };

const WHOLE: Part = { x: 0, y: 0, zoom: 1 };
/** One px of the drawing is shown as so many px of the screen at most. */
const FINEST = 48;
/** A finding is looked at so many times as large. */
export const NEAR = 3.2;
const WHEEL = 0.0016;

export type PictureView = ReturnType<typeof usePictureView>;

export function usePictureView([w, h]: Point) {
  const svg = useRef<SVGSVGElement>(null);
  const [part, setPart] = useState<Part>(WHOLE);
  /** Screen px to a px of the drawing. */
  const scale = () => svg.current?.getScreenCTM()?.a || 1;
  const most = (p: Part) => Math.max(1, (FINEST * p.zoom) / scale());
  const within = (p: Part): Part => {
    const [zw, zh] = [w / p.zoom, h / p.zoom];
    return p.zoom <= 1 ? WHOLE : { ...p, x: Math.min(w - zw / 2, Math.max(-zw / 2, p.x)), y: Math.min(h - zh / 2, Math.max(-zh / 2, p.y)) };
  };
  /** Zooms about a place of the drawing, which stays where it is. */
  const zoomAt = ([x, y]: Point, by: number) =>
    setPart((p) => {
      const zoom = Math.min(most(p), Math.max(1, p.zoom * by));
      const k = p.zoom / zoom;
      return within({ zoom, x: x - (x - p.x) * k, y: y - (y - p.y) * k });
    });
  const place = (clientX: number, clientY: number): Point => {
    const m = svg.current?.getScreenCTM()?.inverse();
    const q = m ? new DOMPoint(clientX, clientY).matrixTransform(m) : { x: 0, y: 0 };
    return [q.x, q.y];
  };
  const moveBy = (dx: number, dy: number) => setPart((p) => within({ ...p, x: p.x - dx / scale(), y: p.y - dy / scale() }));
  const wheel = useRef((_: WheelEvent) => {});
  wheel.current = (e) => {
    e.preventDefault();
    if (e.shiftKey) moveBy(-e.deltaY, -e.deltaX);
    else zoomAt(place(e.clientX, e.clientY), Math.exp(-e.deltaY * (e.deltaMode ? 20 : 1) * WHEEL));
  };
  useEffect(() => {
    const el = svg.current;
    // A wheel's handler that holds the page still cannot be React's, which is passive.
    const on = (e: WheelEvent) => wheel.current(e);
    el?.addEventListener('wheel', on, { passive: false });
    return () => el?.removeEventListener('wheel', on);
  });
  // The pointers that move the view: a mouse with its second button, or fingers.
  const held = useRef(new Map<number, Point>());
  const moved = useRef(false);
  /** Whether a pointer moves the view from here on; one finger does where it has nothing else to do. */
  const down = (e: React.PointerEvent, oneFinger: boolean) => {
    moved.current = false;
    if (!(e.button === 2 || e.button === 1 || e.pointerType === 'touch')) return false;
    held.current.set(e.pointerId, [e.clientX, e.clientY]);
    const moves = e.pointerType !== 'touch' || oneFinger || held.current.size > 1;
    if (moves) svg.current?.setPointerCapture(e.pointerId);
    return moves;
  };
  const move = (e: React.PointerEvent) => {
    const was = held.current.get(e.pointerId);
    if (!was) return false;
    const is: Point = [e.clientX, e.clientY];
    const other = [...held.current].find(([id]) => id !== e.pointerId)?.[1];
    if (!moved.current && Math.hypot(is[0] - was[0], is[1] - was[1]) < 3) return true;
    moved.current = true;
    held.current.set(e.pointerId, is);
    if (other) {
      const apart = (p: Point) => Math.max(1, Math.hypot(p[0] - other[0], p[1] - other[1]));
      zoomAt(place((is[0] + other[0]) / 2, (is[1] + other[1]) / 2), apart(is) / apart(was));
      moveBy((is[0] - was[0]) / 2, (is[1] - was[1]) / 2);
    } else moveBy(is[0] - was[0], is[1] - was[1]);
    return true;
  };
  const up = (e: React.PointerEvent) => held.current.delete(e.pointerId);
  const middle = (): Point => [part.x + w / part.zoom / 2, part.y + h / part.zoom / 2];
  return {
    svg,
    x: part.x,
    y: part.y,
    width: w / part.zoom,
    height: h / part.zoom,
    /** Whether its pixels are seen one by one. */
    fine: part.zoom > 4,
    zoomBy: (by: number) => zoomAt(middle(), by),
    showAll: () => setPart(WHOLE),
    /** A place of the drawing seen near by, without what lies beyond the drawing's edge. */
    lookAt: (x: number, y: number) => {
      const [zw, zh] = [w / NEAR, h / NEAR];
      setPart({ zoom: NEAR, x: Math.min(w - zw, Math.max(0, x - zw / 2)), y: Math.min(h - zh, Math.max(0, y - zh / 2)) });
    },
    place,
    down,
    move,
    up,
    /** Whether the pointer that was let go had moved the view: then it points at nothing. */
    hadMoved: () => moved.current,
  };
}
