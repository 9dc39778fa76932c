// Frame lanes: one column a drawing, one lane a role, a block from p10 to p90 with the median as a tick. Only the columns in
// sight are drawn, so that thousands stay fluid.
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useRef, useState } from 'react';
import type { Schemas } from '../api/client';
import { STANDING } from './picture';

type Drawing = Schemas['DrawingSummary'];
export type Span = [number, number];
type Props = { delivery: Schemas['DeliveryView']; selected: number; span: Span | null; onSelect: (i: number) => void; onSpan: (s: Span | null) => void };

const LANE = 38;
const TOP = 40;
/** Columns are this wide, px. */
const LEAST = 22;
const MOST = 72;

type Lane = { name: string; role: number; weight: Schemas['Weight'] };
/** Where a width lies in a lane, px from its top. */
function yOf(w: Schemas['Weight'], px: number) {
  const range = Math.max(w.tolerance * 2.6, 0.26);
  return Math.min(LANE - 1, Math.max(1, LANE / 2 - ((px / w.target - 1) / range) * (LANE / 2)));
}
const labelOf = (d: Drawing, i: number) => String(d.manifest.drawing ?? i + 1).replace(/^0+(?=\d)/, '');
const COLOUR: Record<string, string> = { heavy: 'var(--heavy)', mixed: 'var(--heavy)', thin: 'var(--thin)' };

const Column = memo(function Column(p: {
  d: Drawing;
  i: number;
  lanes: Lane[];
  x: number;
  w: number;
  state: string;
  artist: string;
  shot: string;
  onSelect: (i: number) => void;
}) {
  const { d, i, lanes, x, w } = p;
  const held = Number(d.manifest.exposure ?? 1);
  const says = `drawing ${labelOf(d, i)}${d.manifest.artist ? ` by ${d.manifest.artist}` : ''}, ${STANDING[d.standing]}`;
  return (
    <g
      id={`frame-${i}`}
      role="option"
      aria-selected={p.state === 'selected'}
      aria-label={says}
      transform={`translate(${x} 0)`}
      onClick={(e) => !e.shiftKey && p.onSelect(i)}
      style={{ cursor: 'pointer' }}
    >
      <title>{says}</title>
      <rect width={w} height={TOP + lanes.length * LANE} fill={p.state ? 'var(--eddy)' : 'transparent'} opacity={p.state === 'selected' ? 0.18 : 0.08} />
      {p.shot && (
        <>
          <line x1="0" x2="0" y1="0" y2={TOP + lanes.length * LANE} stroke="var(--ink-soft)" />
          <text x="3" y="11" style={{ fontWeight: 600 }}>
            {p.shot}
          </text>
        </>
      )}
      <text x={w / 2} y="22" textAnchor="middle" style={p.state === 'selected' ? { fontWeight: 600, fill: 'var(--ink)' } : undefined}>
        {labelOf(d, i)}
      </text>
      <text x={w / 2} y="33" textAnchor="middle" style={{ fontSize: 9 }}>
        {p.artist}
        {held > 1 ? `×${held}` : ''}
      </text>
      {d.standing === 'goes-back' && <circle cx={w / 2} cy="37.5" r="2.2" fill="var(--stop)" />}
      {d.standing === 'returned' && <path d={`M${w / 2 + 4} 37.5h-8m3 -2.5l-3 2.5l3 2.5`} stroke="var(--stop)" fill="none" />}
      {d.standing === 'handed-on' && <path d={`M${w / 2 - 3.5} 37l2.5 2.5l4.5 -5`} stroke="var(--eddy)" strokeWidth="1.4" fill="none" />}
      {d.standing === 'failed' && (
        <text x={w / 2} y={TOP + 26} textAnchor="middle" fill="var(--stop)">
          !
        </text>
      )}
      {lanes.map((lane, k) => {
        const s = d.summary?.lanes.find((l) => l.role === lane.role);
        if (!s) return null;
        const c = COLOUR[s.verdict ?? ''] ?? 'var(--ink)';
        const [a, b, m] = [s.p90, s.p10, s.median].map((v) => TOP + k * LANE + yOf(lane.weight, v)) as [number, number, number];
        return (
          <g key={lane.name}>
            <rect x={w * 0.14} width={w * 0.72} y={a} height={Math.max(2, b - a)} fill={c} opacity="0.34" />
            <rect x={w * 0.1} width={w * 0.8} y={m - 1.4} height="2.8" fill={c} />
          </g>
        );
      })}
    </g>
  );
});

export function FrameLanes({ delivery, selected, span, onSelect, onSpan }: Props) {
  const lanes: Lane[] = delivery.guide.roles.flatMap((r, role) => (r.judge !== false && r.weight_px ? [{ name: r.name, role, weight: r.weight_px }] : []));
  const n = delivery.drawings.length;
  const scroll = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(1000);
  const [over, setOver] = useState<number | null>(null);
  const from = useRef<number | null>(null);
  useEffect(() => {
    const seen = new ResizeObserver(([e]) => e && setRoom(e.contentRect.width));
    if (scroll.current) seen.observe(scroll.current);
    return () => seen.disconnect();
  }, []);
  const cw = Math.min(MOST, Math.max(LEAST, Math.floor(room) / Math.max(n, 1)));
  const columns = useVirtualizer({ horizontal: true, count: n, getScrollElement: () => scroll.current, estimateSize: () => cw, overscan: 12 });
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new width of the columns is the reason
  useEffect(() => columns.measure(), [cw]);
  useEffect(() => {
    if (selected >= 0) columns.scrollToIndex(selected, { align: 'auto' });
  }, [selected, columns]);
  const height = TOP + lanes.length * LANE;
  const items = columns.getVirtualItems();
  const [x0, x1] = [items[0]?.start ?? 0, items[items.length - 1]?.end ?? 0];
  const clamp = (i: number) => Math.min(n - 1, Math.max(0, i));
  const indexAt = (e: React.PointerEvent) => {
    const box = scroll.current?.getBoundingClientRect();
    return clamp(Math.floor((e.clientX - (box?.left ?? 0) + (scroll.current?.scrollLeft ?? 0)) / cw));
  };
  const keys = (e: React.KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1, PageDown: 20, PageUp: -20, Home: -n, End: n }[e.key];
    if (e.key === 'Escape') onSpan(null);
    if (by === undefined) return;
    e.preventDefault();
    const to = clamp(selected + by);
    onSpan(e.shiftKey ? [span && span[0] !== selected ? span[0] : span ? span[1] : selected, to] : null);
    onSelect(to);
  };
  const [lo, hi] = span ? [Math.min(...span), Math.max(...span)] : [-1, -1];
  const shown = over === null ? null : delivery.drawings[over];
  return (
    <div
      className="lanes frame-lanes"
      role="listbox"
      aria-label="drawings; with shift and an arrow key a span of them"
      aria-activedescendant={selected >= 0 ? `frame-${selected}` : undefined}
      tabIndex={0}
      onKeyDown={keys}
    >
      <div style={{ display: 'grid', gridTemplateColumns: 'var(--gutter) minmax(0, 1fr)' }}>
        <div style={{ background: 'var(--sill)', borderRight: '1px solid var(--hairline)' }}>
          <div className="tight soft px-3" style={{ height: TOP, fontSize: '0.85rem', lineHeight: 1.2, paddingTop: 6 }}>
            {shown && over !== null ? (
              <>
                drawing <b>{labelOf(shown, over)}</b>
                <br />
                {shown.manifest.artist ?? 'artist not known'}
              </>
            ) : (
              <>
                drawing
                <br />
                artist, if held ×
              </>
            )}
          </div>
          {lanes.map((l) => {
            const s = shown?.summary?.lanes.find((x) => x.role === l.role);
            return (
              <div key={l.name} className="px-3 tight" style={{ height: LANE, borderTop: '1px solid var(--hairline)', lineHeight: 1.12, paddingTop: 3 }}>
                <b style={{ fontFamily: 'Barlow' }}>{l.name}</b>
                <div className="soft" style={{ fontSize: '0.8rem' }}>
                  {s ? (
                    <b className={s.verdict === 'heavy' || s.verdict === 'thin' ? s.verdict : ''}>
                      {s.median.toFixed(2)} px, {s.p10.toFixed(1)} to {s.p90.toFixed(1)}
                    </b>
                  ) : (
                    `${l.weight.target} px ± ${(l.weight.tolerance * 100).toFixed(0)} %`
                  )}
                </div>
              </div>
            );
          })}
        </div>
        <div
          ref={scroll}
          style={{ overflowX: 'auto', overflowY: 'hidden', touchAction: 'pan-x' }}
          onPointerMove={(e) => {
            const i = indexAt(e);
            setOver(i);
            if (from.current !== null && i !== from.current) onSpan([from.current, i]);
          }}
          onPointerLeave={() => setOver(null)}
          onPointerDown={(e) => {
            if (e.button !== 0) return;
            const i = indexAt(e);
            if (e.shiftKey) {
              onSpan([Math.max(0, selected), i]);
              return;
            }
            from.current = i;
            onSpan(null);
            window.addEventListener('pointerup', () => (from.current = null), { once: true });
          }}
        >
          <div style={{ width: n * cw, height, position: 'relative' }}>
            <svg
              style={{ position: 'absolute', left: x0, top: 0, width: x1 - x0, height, display: 'block', userSelect: 'none' }}
              viewBox={`${x0} 0 ${Math.max(1, x1 - x0)} ${height}`}
              className="axis"
            >
              {lanes.map((l, k) => {
                const top = TOP + k * LANE;
                const [a, b] = [yOf(l.weight, l.weight.target * (1 + l.weight.tolerance)), yOf(l.weight, l.weight.target * (1 - l.weight.tolerance))];
                return (
                  <g key={l.name}>
                    <line x1={x0} x2={x1} y1={top} y2={top} stroke="var(--hairline)" />
                    <rect x={x0} width={x1 - x0} y={top + a} height={b - a} fill="var(--band)" />
                    <line x1={x0} x2={x1} y1={top + a} y2={top + a} stroke="var(--band-edge)" strokeDasharray="4 3" />
                    <line x1={x0} x2={x1} y1={top + b} y2={top + b} stroke="var(--band-edge)" strokeDasharray="4 3" />
                  </g>
                );
              })}
              {items.map((v) => {
                const d = delivery.drawings[v.index];
                if (!d) return null;
                const before = delivery.drawings[v.index - 1];
                const artist = d.manifest.artist ?? '';
                return (
                  <Column
                    key={d.id}
                    d={d}
                    i={v.index}
                    lanes={lanes}
                    x={v.start}
                    w={cw}
                    state={v.index === selected ? 'selected' : v.index >= lo && v.index <= hi ? 'span' : ''}
                    artist={artist.slice(0, Math.max(1, Math.floor(cw / 6)))}
                    shot={d.manifest.shot && d.manifest.shot !== before?.manifest.shot ? d.manifest.shot : ''}
                    onSelect={onSelect}
                  />
                );
              })}
              {over !== null && <line x1={(over + 0.5) * cw} x2={(over + 0.5) * cw} y1={TOP} y2={height} stroke="var(--eddy)" pointerEvents="none" />}
            </svg>
          </div>
        </div>
      </div>
    </div>
  );
}
