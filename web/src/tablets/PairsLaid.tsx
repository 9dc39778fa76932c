// The strokes over the scan that they were laid on; where they lie beside their lines they are moved and turned by hand, and laid again from there.
import { useRef, useState } from 'react';
import type { Schemas } from '../api/client';
import { pathOf } from '../lanes/Lane';
import { useOpen } from '../session';
import type { PageScan } from './pairsPage';

type Moved = { dx_mm: number; dy_mm: number; turn_deg: number };
type Props = {
  view: Schemas['PairsView'];
  scan: PageScan;
  busy: boolean;
  /** Lays them again from where they were moved to; left out where they lie as they were drawn. */
  onNudge: ((nudge: Schemas['Nudge']) => void) | undefined;
};

const STILL: Moved = { dx_mm: 0, dy_mm: 0, turn_deg: 0 };
/** One press of a key, mm and degrees; with Shift ten times as much. */
const STEP = 0.2;
const KEYS: Record<string, keyof Moved> = {
  ArrowLeft: 'dx_mm',
  ArrowRight: 'dx_mm',
  ArrowUp: 'dy_mm',
  ArrowDown: 'dy_mm',
  '[': 'turn_deg',
  ']': 'turn_deg',
};
const signed = (v: number, digits = 1) => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(digits)}`;
const itself = (v: number) => v;

export function PairsLaid({ view, scan, busy, onNudge }: Props) {
  const { production } = useOpen();
  const [w = 1, h = 1] = view.size_mm ?? [];
  const [moved, setMoved] = useState(STILL);
  const svg = useRef<SVGSVGElement>(null);
  const from = useRef<{ x: number; y: number; moved: Moved } | null>(null);
  /** Screen px to a mm of the scan. */
  const scale = () => svg.current?.getScreenCTM?.()?.a || 1;
  const is = moved.dx_mm !== 0 || moved.dy_mm !== 0 || moved.turn_deg !== 0;
  const keys = (e: React.KeyboardEvent) => {
    const of = KEYS[e.key];
    if (!of || !onNudge) return;
    e.preventDefault();
    const by = STEP * (e.shiftKey ? 10 : 1) * (['ArrowLeft', 'ArrowUp', '['].includes(e.key) ? -1 : 1);
    setMoved((m) => ({ ...m, [of]: Math.round((m[of] + by) * 100) / 100 }));
  };
  const drag = onNudge && {
    onPointerDown: (e: React.PointerEvent) => {
      svg.current?.setPointerCapture(e.pointerId);
      from.current = { x: e.clientX, y: e.clientY, moved };
    },
    onPointerMove: (e: React.PointerEvent) => {
      const f = from.current;
      if (f) setMoved({ ...f.moved, dx_mm: f.moved.dx_mm + (e.clientX - f.x) / scale(), dy_mm: f.moved.dy_mm + (e.clientY - f.y) / scale() });
    },
    onPointerUp: () => {
      from.current = null;
    },
    onPointerCancel: () => {
      from.current = null;
    },
  };
  return (
    <>
      <svg
        ref={svg}
        viewBox={`0 0 ${w} ${h}`}
        width="100%"
        style={{ background: '#fff', display: 'block', touchAction: 'none', cursor: onNudge ? 'move' : undefined }}
        role="img"
        aria-label="the strokes laid over the scan"
        tabIndex={onNudge ? 0 : undefined}
        onKeyDown={keys}
        {...drag}
      >
        <image href={`/api/v1/productions/${production.id}/images/${scan.sha256}/preview`} width={w} height={h} opacity="0.6" preserveAspectRatio="none" />
        <g transform={`translate(${moved.dx_mm} ${moved.dy_mm}) rotate(${moved.turn_deg} ${w / 2} ${h / 2})`}>
          {view.laid_mm.map((s, i) => (
            <path key={i} d={pathOf(s, itself, itself)} fill="none" stroke="var(--eddy)" strokeWidth="0.25" />
          ))}
        </g>
      </svg>
      {onNudge && (
        <div className="d-flex gap-3 align-items-center flex-wrap tight mt-1">
          {is ? (
            <>
              <span>
                moved {signed(moved.dx_mm)} mm across, {signed(moved.dy_mm)} mm down, turned {signed(moved.turn_deg)}°
              </span>
              <button type="button" className="btn btn-sm btn-paper" disabled={busy} onClick={() => onNudge({ ...moved, placement: view.pairs.placement })}>
                Lay again from here
              </button>
              <button type="button" className="btn-word" onClick={() => setMoved(STILL)}>
                Undo moves
              </button>
            </>
          ) : (
            <span className="soft">Beside their lines? Drag the strokes, or use the arrow keys; [ and ] turn them; with Shift ten times as far.</span>
          )}
        </div>
      )}
    </>
  );
}
