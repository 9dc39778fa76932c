// A stroke in the air: its reports as the device sends them, and what becomes of it when the page goes away under the pen.
import { useEffect, useRef } from 'react';
import { flushSync } from 'react-dom';

/** What lifts the strokes that are being drawn: whoever lays work down as the page goes calls it first. */
export const strokesInAir = new Set<() => void>();

type InAir = {
  /** A report that came before the browser's next frame. */
  report: (e: PointerEvent) => void;
  /** Ends the stroke in hand, as a lifted pen would. */
  lift: () => void;
};

/** Where the browser tells of reports at once (`pointerrawupdate`, secure pages only) they are taken at once; a page that is hidden, closed or left
 * keeps the stroke that is being drawn. */
export function useInAir(surface: React.RefObject<HTMLElement | null>, inAir: InAir) {
  const now = useRef(inAir);
  now.current = inAir;
  useEffect(() => {
    const el = surface.current;
    const report = (e: Event) => now.current.report(e as PointerEvent);
    // At once: it is laid down with what was about to be sent.
    const away = () => flushSync(() => now.current.lift());
    const hidden = () => document.visibilityState === 'hidden' && away();
    el?.addEventListener('pointerrawupdate', report);
    document.addEventListener('visibilitychange', hidden);
    strokesInAir.add(away);
    return () => {
      el?.removeEventListener('pointerrawupdate', report);
      document.removeEventListener('visibilitychange', hidden);
      strokesInAir.delete(away);
    };
  }, [surface]);
}
