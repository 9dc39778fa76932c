// Lead-in and lead-out: the taper dragged where it is drawn, beside exact numbers.
import { useRef } from 'react';
import type { Schemas } from '../api/client';
import { Card, type CardProps, FigureRow, Switch } from './Card';
import { Handle } from './Handle';

const TAPER: Schemas['Taper'] = { length_mm: 4, share: 0.35, tip_width_mm: 0.05, shape: 0.8, over_mm_s: 0 };

export function TaperCard({ brush, change, preview, may, match, side }: CardProps & { side: 'lead_in' | 'lead_out' }) {
  const t = brush[side];
  const name = side === 'lead_in' ? 'Lead-in' : 'Lead-out';
  const set = (v: Partial<Schemas['Taper']>) => change({ ...brush, [side]: { ...(t ?? TAPER), ...v } });
  const n = 40;
  const tip = Math.min(1, (t?.tip_width_mm ?? 0) / Math.max(0.05, brush.weight[Math.floor(brush.weight.length / 2)]?.[1] ?? 0.5));
  const half = (d: number) => 16 * (tip + (1 - tip) * Math.min(1, d) ** (t?.shape ?? 1));
  const points = Array.from({ length: n + 1 }, (_, i) => [i / n, half((i / n) * 1.25)] as const);
  const px = (u: number) => (side === 'lead_in' ? 4 + u * 172 : 176 - u * 172);
  const start = useRef(t);
  const widest = Math.max(0.05, brush.weight[Math.floor(brush.weight.length / 2)]?.[1] ?? 0.5);
  /** A drag or a step: what it was when it began, changed. */
  const pull = (make: (from: Schemas['Taper']) => Partial<Schemas['Taper']>, done: boolean) => {
    const from = start.current ?? t ?? TAPER;
    start.current = done ? null : from;
    (done ? change : preview)({ ...brush, [side]: { ...from, ...make(from) } });
  };
  const length = (mm: number) => Math.round(Math.max(0.1, Math.min(200, mm)) * 100) / 100;
  const tipWidth = (mm: number) => Math.round(Math.max(0, Math.min(widest, mm)) * 1000) / 1000;
  return (
    <Card
      title={name}
      part={side === 'lead_in' ? 'lead-in' : 'lead-out'}
      match={match}
      may={may}
      aside={<Switch on={!!t} label={name} may={may} onChange={(on) => change({ ...brush, [side]: on ? TAPER : null })} />}
    >
      {t ? (
        <>
          <svg className="part-figure" viewBox="0 0 180 40" width="100%" role="group" aria-label={`${name}: drag its length and its tip width`}>
            <path
              d={`${points.map(([u, h], i) => `${i ? 'L' : 'M'}${px(u)} ${20 - h}`).join('')}${[...points]
                .reverse()
                .map(([u, h]) => `L${px(u)} ${20 + h}`)
                .join('')}Z`}
              fill="var(--ink)"
            />
            <Handle
              x={px(0.8)}
              y={20 - half(1)}
              label={`${name}: length`}
              value={t.length_mm}
              text={`${t.length_mm.toFixed(2)} mm`}
              disabled={!may}
              onDrag={(to, from, done) =>
                pull((was) => ({ length_mm: length(was.length_mm * (1 + ((side === 'lead_in' ? to[0] - from[0] : from[0] - to[0]) / 172) * 2)) }), done)
              }
              onStep={(k) => pull((was) => ({ length_mm: length(was.length_mm + 0.1 * k) }), true)}
            />
            <Handle
              x={px(0)}
              y={20 - half(0)}
              label={`${name}: tip width`}
              value={t.tip_width_mm ?? 0}
              text={`${(t.tip_width_mm ?? 0).toFixed(3)} mm`}
              disabled={!may}
              onDrag={(to, _, done) => pull(() => ({ tip_width_mm: tipWidth((Math.max(0, 20 - to[1]) / 16) * widest) }), done)}
              onStep={(k) => pull((was) => ({ tip_width_mm: tipWidth((was.tip_width_mm ?? 0) + 0.005 * k) }), true)}
            />
          </svg>
          <FigureRow
            name="length"
            value={t.length_mm}
            digits={1}
            label={`${name} length in mm`}
            range={[0, 1000]}
            disabled={!may}
            onValue={(v) => set({ length_mm: v })}
            unit="mm"
          />
          <FigureRow
            name="at most"
            value={(t.share ?? 1) * 100}
            digits={0}
            label={`${name} share in per cent`}
            range={[0, 100]}
            disabled={!may}
            onValue={(v) => set({ share: v / 100 })}
            unit="% of the stroke"
          />
          <FigureRow
            name="tip width"
            value={t.tip_width_mm ?? 0}
            digits={3}
            label={`${name} tip width in mm`}
            range={[0, 100]}
            disabled={!may}
            onValue={(v) => set({ tip_width_mm: v })}
            unit="mm"
          />
          <FigureRow
            name="shape"
            value={t.shape ?? 1}
            digits={2}
            label={`${name} shape`}
            range={[0.01, 10]}
            disabled={!may}
            onValue={(v) => set({ shape: v })}
          />
          <FigureRow
            name="only above"
            value={t.over_mm_s ?? 0}
            digits={0}
            label={`${name} least speed in mm/s`}
            range={[0, 100000]}
            disabled={!may}
            onValue={(v) => set({ over_mm_s: v })}
            unit="mm/s"
          />
        </>
      ) : (
        <p className="soft tight mb-0">None: the line {side === 'lead_in' ? 'starts' : 'ends'} as wide as the effort says.</p>
      )}
    </Card>
  );
}
