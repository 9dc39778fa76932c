// One line's width along its length: against the band of its role, the same place marked on the drawing.
import { useMemo } from 'react';
import type { Schemas } from '../api/client';
import { type Place, placeOf } from '../parts/picture';

const [W, H] = [900, 78];

export function WidthLane({
  drawing,
  line,
  role,
  at,
  onAt,
}: {
  drawing: Schemas['DrawingView'];
  line: number;
  role: Schemas['Role'] | undefined;
  at: Place | null;
  onAt: (p: Place | null) => void;
}) {
  const places = useMemo(() => {
    const n = (drawing.lines[line]?.places.length ?? 0) / 3;
    let way = 0;
    let before: Place | null = null;
    return Array.from({ length: n }, (_, i) => {
      const p = placeOf(drawing.lines, line, i);
      if (before) way += Math.hypot(p.x - before.x, p.y - before.y);
      before = p;
      return { ...p, way };
    });
  }, [drawing.lines, line]);
  const length = places[places.length - 1]?.way ?? 1;
  const factor = (drawing.check?.scale ?? 1) * (drawing.check?.shot_factor ?? 1);
  const w = role?.weight_px;
  const [lo, hi] = w
    ? [Math.min(w.swell?.[0] ?? 99, w.target * (1 - w.tolerance)) * factor, Math.max(w.swell?.[1] ?? 0, w.target * (1 + w.tolerance)) * factor]
    : [0, 0];
  const top = Math.max(hi * 1.25, ...places.filter((p) => p.standing !== '-').map((p) => p.width)) * 1.05 || 10;
  const x = (v: number) => (v / (length || 1)) * W;
  const y = (v: number) => H - (Math.min(v, top) / top) * (H - 6);
  let d = '';
  places.forEach((p, i) => {
    const open = i > 0 && places[i - 1]?.standing !== '-' && p.standing !== '-';
    d += `${open ? 'L' : 'M'}${x(p.way).toFixed(1)} ${y(p.width).toFixed(1)}`;
  });
  const here = at && at.line === line ? places[at.i] : undefined;
  return (
    <div className="lane" style={{ borderTop: '1px solid var(--hairline)', display: 'grid', gridTemplateColumns: '150px 1fr' }}>
      <div className="gutter">
        <b>{role?.name ?? 'line'}</b>
        <span>width along the line</span>
        <span>{here ? `${here.width.toFixed(2)} px at ${here.way.toFixed(0)} of ${length.toFixed(0)} px` : `${length.toFixed(0)} px long`}</span>
      </div>
      <svg
        viewBox={`0 0 ${W} ${H}`}
        preserveAspectRatio="none"
        width="100%"
        height={H}
        role="img"
        aria-label={`width along ${role?.name ?? 'the line'}, ${length.toFixed(0)} px long`}
        onPointerLeave={() => onAt(null)}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const way = ((e.clientX - box.left) / box.width) * length;
          const near = places.reduce<(typeof places)[number] | null>((best, p) => (!best || Math.abs(p.way - way) < Math.abs(best.way - way) ? p : best), null);
          if (near) onAt(near);
        }}
      >
        {w && <rect x="0" width={W} y={y(hi)} height={y(lo) - y(hi)} fill="var(--band)" />}
        {w && <line x1="0" x2={W} y1={y(w.target * factor)} y2={y(w.target * factor)} stroke="var(--band-edge)" strokeDasharray="4 3" />}
        <path d={d} fill="none" stroke="var(--ink)" strokeWidth="1.4" vectorEffect="non-scaling-stroke" />
        {(['h', 't'] as const).map((s) => (
          <path
            key={s}
            d={places.map((p, i) => `${p.standing === s && places[i - 1]?.standing === s ? 'L' : 'M'}${x(p.way).toFixed(1)} ${y(p.width).toFixed(1)}`).join('')}
            fill="none"
            stroke={s === 'h' ? 'var(--heavy)' : 'var(--thin)'}
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        {here && <line x1={x(here.way)} x2={x(here.way)} y1="0" y2={H} stroke="var(--eddy)" vectorEffect="non-scaling-stroke" />}
      </svg>
    </div>
  );
}
