// How a sheet is seen, and what changes it from outside and by wheel and keys.
import { useCallback, useEffect, useRef } from 'react';
import { MM_PER_PX } from './engine';
import { about, fitted, type Point, type View } from './view';

/** What a page does with a sheet from outside. */
export type SheetHandle = {
  showAll: () => void;
  zoomTo: (scale: number) => void;
  zoomBy: (k: number) => void;
  turnBy: (rad: number) => void;
  mirror: () => void;
};

type Seen = { page?: Point; fixed?: boolean; scale?: number; onView?: (v: View) => void };
const WHEEL = 0.0016;
const STEP_PX = 40;

export function useSeen(box: React.RefObject<HTMLDivElement | null>, p: Seen, onChange: () => void) {
  const start = (): View => ({ scale: p.scale ?? 1 / MM_PER_PX, turn: 0, mirror: false, x: 0, y: 0 });
  const view = useRef<View>(start());
  const now = useRef(p);
  now.current = p;
  const see = useCallback(
    (v: View) => {
      view.current = v;
      now.current.onView?.(v);
      onChange();
    },
    [onChange],
  );
  const size = (): Point => [box.current?.clientWidth ?? 0, box.current?.clientHeight ?? 0];
  const middle = (): Point => {
    const [w, h] = size();
    return [w / 2, h / 2];
  };
  const handle: SheetHandle = {
    showAll: () => see(p.page ? fitted(...p.page, size()) : start()),
    zoomTo: (scale) => see(about(view.current, middle(), { scale })),
    zoomBy: (k) => see(about(view.current, middle(), { scale: view.current.scale * k })),
    turnBy: (rad) => see(about(view.current, middle(), { turn: view.current.turn + rad })),
    mirror: () => see(about(view.current, middle(), { mirror: !view.current.mirror, turn: -view.current.turn })),
  };
  const by = (x: number, y: number) => see({ ...view.current, x: view.current.x + x, y: view.current.y + y });
  const keys = (e: React.KeyboardEvent) => {
    if (p.fixed || e.ctrlKey || e.metaKey || e.altKey) return;
    const does = new Map<string, () => void>([
      ['ArrowLeft', () => by(STEP_PX, 0)],
      ['ArrowRight', () => by(-STEP_PX, 0)],
      ['ArrowUp', () => by(0, STEP_PX)],
      ['ArrowDown', () => by(0, -STEP_PX)],
      ['+', () => handle.zoomBy(1.25)],
      ['=', () => handle.zoomBy(1.25)],
      ['-', () => handle.zoomBy(0.8)],
      ['[', () => handle.turnBy(-Math.PI / 12)],
      [']', () => handle.turnBy(Math.PI / 12)],
      ['Home', handle.showAll],
    ]);
    const act = does.get(e.key);
    if (!act) return;
    e.preventDefault();
    e.stopPropagation();
    act();
  };
  useEffect(() => {
    const el = box.current;
    // A wheel's handler that holds the page still cannot be React's, which is passive.
    const wheel = (e: WheelEvent) => {
      if (now.current.fixed || !el) return;
      e.preventDefault();
      const rect = el.getBoundingClientRect();
      const v = view.current;
      if (e.shiftKey) see({ ...v, x: v.x - e.deltaY, y: v.y - e.deltaX });
      else see(about(v, [e.clientX - rect.left, e.clientY - rect.top], { scale: v.scale * Math.exp(-e.deltaY * (e.deltaMode ? 20 : 1) * WHEEL) }));
    };
    el?.addEventListener('wheel', wheel, { passive: false });
    const seen = new ResizeObserver(onChange);
    if (el) seen.observe(el);
    return () => {
      seen.disconnect();
      el?.removeEventListener('wheel', wheel);
    };
  }, [box, see, onChange]);
  return { view, see, handle, keys };
}
