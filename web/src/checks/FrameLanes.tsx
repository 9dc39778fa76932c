// Frame lanes: one column a drawing, one lane a role, a block from p10 to p90 with the median as a tick. Only columns near those
// in sight are drawn, a few at a time, so that thousands stay fluid.
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Schemas } from '../api/client';
import { STANDING } from '../parts/picture';
import { type Chosen, farEnd, span, toggled } from './chosen';
import { LANE, type Lane, LaneGutter, TOP } from './LaneGutter';

type Drawing = Schemas['DrawingSummary'];
type Props = {
  delivery: Schemas['DeliveryView'];
  selected: number;
  chosen: Chosen | null;
  onSelect: (i: number) => void;
  onChoose: (c: Chosen | null) => void;
  /** One line of marks in the place of the lanes; what stands in its gutter then. */
  folded: React.ReactNode | null;
};

/** Columns are this wide, px. */
const LEAST = 22;
const MOST = 72;
/** So many columns are drawn together. */
const TOGETHER = 8;

/** Where a width lies in a lane, px from its top. */
function yOf(w: Schemas['Weight'], px: number) {
  const range = Math.max(w.tolerance * 2.6, 0.26);
  return Math.min(LANE - 1, Math.max(1, LANE / 2 - ((px / w.target - 1) / range) * (LANE / 2)));
}
const labelOf = (d: Drawing, i: number) => String(d.manifest.drawing ?? i + 1).replace(/^0+(?=\d)/, '');
const INKS = ['var(--ink)', 'var(--heavy)', 'var(--thin)'];
/** The worst that a drawing's roles weigh. */
const offOf = (d: Drawing) => {
  const verdicts = d.summary?.lanes.map((l) => l.verdict) ?? [];
  return verdicts.some((v) => v === 'heavy' || v === 'mixed') ? 'heavy' : verdicts.includes('thin') ? 'thin' : '';
};
const COLOUR: Record<string, string> = { heavy: 'var(--heavy)', mixed: 'var(--heavy)', thin: 'var(--thin)' };

const Column = memo(function Column(p: {
  d: Drawing;
  i: number;
  height: number;
  x: number;
  w: number;
  state: string;
  artist: string;
  shot: string;
  /** Its worst weight, where the lanes that show it are folded. */
  off: 'heavy' | 'thin' | '';
  onSelect: (i: number) => void;
}) {
  const { d, i, x, w } = p;
  const held = Number(d.manifest.exposure ?? 1);
  const says = `drawing ${labelOf(d, i)}${d.manifest.artist ? ` by ${d.manifest.artist}` : ''}, ${STANDING[d.standing]}`;
  return (
    <g
      id={`frame-${i}`}
      role="option"
      aria-selected={p.state === 'selected'}
      aria-label={says}
      transform={`translate(${x} 0)`}
      onClick={(e) => !(e.shiftKey || e.ctrlKey || e.metaKey) && p.onSelect(i)}
      style={{ cursor: 'pointer' }}
    >
      <rect width={w} height={p.height} fill={p.state ? 'var(--eddy)' : 'transparent'} opacity={p.state === 'selected' ? 0.18 : 0.08} />
      {p.shot && (
        <>
          <line x1="0" x2="0" y1="0" y2={p.height} stroke="var(--ink-soft)" />
          <text x="3" y="12" style={{ fontWeight: 600 }}>
            {p.shot}
          </text>
        </>
      )}
      <text x={w / 2} y="24" textAnchor="middle" style={p.state === 'selected' ? { fontWeight: 600, fill: 'var(--ink)' } : undefined}>
        {labelOf(d, i)}
      </text>
      <text x={w / 2} y="36" textAnchor="middle">
        {p.artist}
        {held > 1 && w >= 34 ? ` ×${held}` : ''}
      </text>
      {p.off && (
        <path d={p.off === 'heavy' ? `M${w - 9} 13h8l-4 -7z` : `M${w - 9} 6h8l-4 7z`} style={{ stroke: 'none', fill: `var(--${p.off})` }}>
          <title>{p.off} in a role</title>
        </path>
      )}
      {d.standing === 'goes-back' && <circle cx={w / 2} cy="42" r="2.2" fill="var(--stop)" />}
      {d.standing === 'not-checked' && <circle cx={w / 2} cy="42" r="2.4" fill="none" stroke="var(--warn)" strokeWidth="1.4" />}
      {d.standing === 'returned' && <path d={`M${w / 2 + 4} 42h-8m3 -2.5l-3 2.5l3 2.5`} fill="none" style={{ stroke: 'var(--stop)' }} />}
      {d.standing === 'handed-on' && <path d={`M${w / 2 - 3.5} 41.5l2.5 2.5l4.5 -5`} strokeWidth="1.4" fill="none" style={{ stroke: 'var(--eddy)' }} />}
      {d.standing === 'failed' && (
        <text x={w / 2} y={TOP + 26} textAnchor="middle" fill="var(--stop)">
          !
        </text>
      )}
    </g>
  );
});

/** Some columns on the bands of their lanes. */
const Chunk = memo(function Chunk(p: {
  drawings: Drawing[];
  first: number;
  lanes: Lane[];
  cw: number;
  /** Which of them is selected, and which are chosen: their places in a row of words, so that a chunk is drawn again only for its own. */
  selected: number;
  chosen: string;
  folded: boolean;
  onSelect: (i: number) => void;
}) {
  const { drawings, first, lanes, cw } = p;
  const some = drawings.slice(first, first + TOGETHER);
  const among = p.chosen.split(' ');
  const [w, h] = [some.length * cw, TOP + lanes.length * LANE];
  const bands = lanes.map((l, k) => [1 + l.weight.tolerance, 1 - l.weight.tolerance].map((f) => TOP + k * LANE + yOf(l.weight, l.weight.target * f)));
  // All blocks, or all medians, of one ink: a few elements in all, so that scrolling costs little.
  const blocks = (ink: string, tick: boolean) =>
    some
      .flatMap((d, i) =>
        lanes.map((lane, k) => {
          const s = d.summary?.lanes.find((l) => l.role === lane.role);
          if (!s || (COLOUR[s.verdict ?? ''] ?? 'var(--ink)') !== ink) return '';
          const y = (v: number) => TOP + k * LANE + yOf(lane.weight, v);
          const [top, tall] = tick ? [y(s.median) - 1.4, 2.8] : [y(s.p90), Math.max(2, y(s.p10) - y(s.p90))];
          const [left, wide] = tick ? [0.1, 0.8] : [0.14, 0.72];
          return `M${((i + left) * cw).toFixed(1)} ${top.toFixed(1)}h${(wide * cw).toFixed(1)}v${tall.toFixed(1)}h${(-wide * cw).toFixed(1)}z`;
        }),
      )
      .join('');
  return (
    <svg role="presentation" style={{ position: 'absolute', left: first * cw, top: 0, width: w, height: h, display: 'block' }} className="axis">
      <path d={lanes.map((_, k) => `M0 ${TOP + k * LANE}H${w}`).join('')} stroke="var(--hairline)" />
      <path d={bands.map(([a, b]) => `M0 ${a}H${w}V${b}H0Z`).join('')} fill="var(--band)" style={{ stroke: 'none' }} />
      <path d={bands.map(([a, b]) => `M0 ${a}H${w}M0 ${b}H${w}`).join('')} style={{ stroke: 'var(--band-edge)' }} strokeDasharray="4 3" />
      {INKS.map((ink) => (
        <path key={`${ink} block`} d={blocks(ink, false)} fill={ink} opacity="0.34" style={{ stroke: 'none' }} />
      ))}
      {INKS.map((ink) => (
        <path key={`${ink} tick`} d={blocks(ink, true)} fill={ink} style={{ stroke: 'none' }} />
      ))}
      {some.map((d, k) => {
        const i = first + k;
        const shot = d.manifest.shot;
        return (
          <Column
            key={d.id}
            d={d}
            i={i}
            height={h}
            x={k * cw}
            w={cw}
            state={i === p.selected ? 'selected' : among.includes(String(i)) ? 'span' : ''}
            artist={(d.manifest.artist ?? '').slice(0, Math.max(1, Math.floor(cw / 6)))}
            off={p.folded ? offOf(d) : ''}
            shot={shot && shot !== drawings[i - 1]?.manifest.shot ? shot : ''}
            onSelect={p.onSelect}
          />
        );
      })}
    </svg>
  );
});

export function FrameLanes({ delivery, selected, chosen, onSelect, onChoose, folded }: Props) {
  const roles = delivery.guide.roles;
  const isFolded = folded !== null;
  const lanes: Lane[] = useMemo(
    () => roles.flatMap((r, role) => (!isFolded && r.judge !== false && r.weight_px ? [{ name: r.name, role, weight: r.weight_px }] : [])),
    [roles, isFolded],
  );
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
  const chunks = useVirtualizer({
    horizontal: true,
    count: Math.ceil(n / TOGETHER),
    getScrollElement: () => scroll.current,
    estimateSize: () => cw * TOGETHER,
    overscan: 2,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new width of the columns is the reason
  useEffect(() => chunks.measure(), [cw]);
  useEffect(() => {
    const box = scroll.current;
    if (!box || selected < 0) return;
    if (selected * cw < box.scrollLeft) box.scrollLeft = selected * cw;
    else if ((selected + 1) * cw > box.scrollLeft + box.clientWidth) box.scrollLeft = (selected + 1) * cw - box.clientWidth;
  }, [selected, cw]);
  const height = TOP + lanes.length * LANE;
  const clamp = (i: number) => Math.min(n - 1, Math.max(0, i));
  const indexAt = (e: React.PointerEvent) => {
    const box = scroll.current?.getBoundingClientRect();
    return clamp(Math.floor((e.clientX - (box?.left ?? 0) + (scroll.current?.scrollLeft ?? 0)) / cw));
  };
  const keys = (e: React.KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1, PageDown: 20, PageUp: -20, Home: -n, End: n }[e.key];
    const several = e.ctrlKey || e.metaKey;
    if (e.key === 'Escape') onChoose(null);
    if (e.key === ' ') onChoose(toggled(chosen, selected));
    if (by === undefined && e.key !== ' ') return;
    e.preventDefault();
    if (by === undefined) return;
    const to = clamp(selected + by);
    // With Ctrl what is chosen stays, and the space bar adds to it.
    if (!several) onChoose(e.shiftKey ? span(farEnd(chosen, selected), to) : null);
    onSelect(to);
  };
  const shown = over === null ? null : delivery.drawings[over];
  return (
    <div
      className="lanes frame-lanes"
      role="listbox"
      aria-label="drawings; with shift and an arrow key a span of them, with Ctrl and the space bar one by one"
      aria-multiselectable
      aria-activedescendant={selected >= 0 ? `frame-${selected}` : undefined}
      tabIndex={0}
      onKeyDown={keys}
    >
      <div style={{ display: 'grid', gridTemplateColumns: 'var(--gutter) minmax(0, 1fr)' }}>
        <LaneGutter lanes={lanes} shown={shown ?? null} label={shown && over !== null ? labelOf(shown, over) : ''} folded={folded} />
        <div
          ref={scroll}
          style={{ overflowX: 'auto', overflowY: 'hidden', touchAction: 'pan-x' }}
          onPointerMove={(e) => {
            const i = indexAt(e);
            setOver(i);
            if (from.current !== null && i !== from.current) onChoose(span(from.current, i));
          }}
          onPointerLeave={() => setOver(null)}
          onPointerDown={(e) => {
            if (e.button !== 0) return;
            const i = indexAt(e);
            if (e.shiftKey) return onChoose(span(Math.max(0, selected), i));
            if (e.ctrlKey || e.metaKey) return onChoose(toggled(chosen, i));
            from.current = i;
            onChoose(null);
            window.addEventListener('pointerup', () => (from.current = null), { once: true });
          }}
        >
          <div style={{ width: n * cw, height, position: 'relative' }}>
            {chunks.getVirtualItems().map((v) => {
              const first = v.index * TOGETHER;
              const here = (i: number) => i >= first && i < first + TOGETHER;
              return (
                <Chunk
                  key={v.index}
                  drawings={delivery.drawings}
                  first={first}
                  lanes={lanes}
                  cw={cw}
                  selected={here(selected) ? selected : -1}
                  chosen={(chosen ?? []).filter(here).join(' ')}
                  folded={isFolded}
                  onSelect={onSelect}
                />
              );
            })}
            {over !== null && (
              <div
                style={{
                  position: 'absolute',
                  left: (over + 0.5) * cw,
                  top: TOP,
                  width: 1,
                  height: height - TOP,
                  background: 'var(--eddy)',
                  pointerEvents: 'none',
                }}
              />
            )}
          </div>
        </div>
      </div>
    </div>
  );
}
