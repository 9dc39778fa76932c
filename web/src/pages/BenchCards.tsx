// The brush's parts as cards, each with a direct handle beside exact numbers.
import type { ReactNode } from 'react';
import type { Schemas } from '../api/client';
import { Figure } from '../lanes/CurveEditor';

type Brush = Schemas['Brush'];
type Props = { brush: Brush; change: (b: Brush) => void; may: boolean };

function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="figure-row">
      <span>{name}</span>
      <b>{children}</b>
    </div>
  );
}

function Switch({ on, label, onChange, may }: { on: boolean; label: string; onChange: (on: boolean) => void; may: boolean }) {
  return (
    <button
      type="button"
      className="btn-word"
      aria-pressed={on}
      aria-label={`${label}: ${on ? 'set to none' : 'add'}`}
      disabled={!may}
      onClick={() => onChange(!on)}
    >
      {on ? 'Set to none' : 'Add'}
    </button>
  );
}

const TAPER: Schemas['Taper'] = { length_mm: 4, share: 0.35, tip_width_mm: 0.05, shape: 0.8, over_mm_s: 0 };

export function TaperCard({ brush, change, may, side }: Props & { side: 'lead_in' | 'lead_out' }) {
  const t = brush[side];
  const name = side === 'lead_in' ? 'Lead-in' : 'Lead-out';
  const set = (v: Partial<Schemas['Taper']>) => change({ ...brush, [side]: { ...(t ?? TAPER), ...v } });
  const n = 40;
  const tip = Math.min(1, (t?.tip_width_mm ?? 0) / Math.max(0.05, brush.weight[Math.floor(brush.weight.length / 2)]?.[1] ?? 0.5));
  const half = (d: number) => 16 * (tip + (1 - tip) * Math.min(1, d) ** (t?.shape ?? 1));
  const points = Array.from({ length: n + 1 }, (_, i) => [i / n, half((i / n) * 1.25)] as const);
  const px = (u: number) => (side === 'lead_in' ? 4 + u * 172 : 176 - u * 172);
  return (
    <div className="card-plain">
      <div className="d-flex justify-content-between">
        <h2>{name}</h2>
        <Switch on={!!t} label={name} may={may} onChange={(on) => change({ ...brush, [side]: on ? TAPER : null })} />
      </div>
      {t ? (
        <>
          <svg viewBox="0 0 180 40" width="100%" aria-hidden>
            <path
              d={`${points.map(([u, h], i) => `${i ? 'L' : 'M'}${px(u)} ${20 - h}`).join('')}${[...points]
                .reverse()
                .map(([u, h]) => `L${px(u)} ${20 + h}`)
                .join('')}Z`}
              fill="var(--ink)"
            />
          </svg>
          <Row name="length">
            <Figure value={t.length_mm} digits={1} label={`${name} length in mm`} disabled={!may} onValue={(v) => set({ length_mm: v })} /> mm
          </Row>
          <Row name="share of the stroke, at most">
            <Figure value={(t.share ?? 1) * 100} digits={0} label={`${name} share in per cent`} disabled={!may} onValue={(v) => set({ share: v / 100 })} /> %
          </Row>
          <Row name="left at the tip">
            <Figure value={t.tip_width_mm ?? 0} digits={3} label={`${name} tip width in mm`} disabled={!may} onValue={(v) => set({ tip_width_mm: v })} /> mm
          </Row>
          <Row name="shape">
            <Figure value={t.shape ?? 1} digits={2} label={`${name} shape`} disabled={!may} onValue={(v) => set({ shape: v })} />
          </Row>
        </>
      ) : (
        <p className="soft tight mb-0">None: the line {side === 'lead_in' ? 'starts' : 'ends'} as wide as the effort says.</p>
      )}
    </div>
  );
}

export function NibCard({ brush, change, may }: Props) {
  const ellipse = brush.nib.shape === 'ellipse';
  const ratio = ellipse ? (brush.nib.breadth ?? 1) : 1;
  const angle = brush.nib.angle_deg ?? 0;
  const known = ellipse || brush.nib.shape === 'round';
  return (
    <div className="card-plain">
      <div className="d-flex justify-content-between">
        <h2>Nib</h2>
        {known && (
          <button
            type="button"
            className="btn-word"
            disabled={!may}
            onClick={() => change({ ...brush, nib: ellipse ? { shape: 'round' } : { shape: 'ellipse', breadth: 0.5, angle_deg: 35 } })}
          >
            {ellipse ? 'Make it round' : 'Make it elliptical'}
          </button>
        )}
      </div>
      <svg viewBox="-50 -26 100 52" width="100%" style={{ maxHeight: 84 }} aria-hidden>
        <circle r="24" fill="none" stroke="var(--hairline)" />
        <ellipse rx="20" ry={20 * ratio} transform={`rotate(${-angle})`} fill="var(--ink)" />
      </svg>
      {ellipse ? (
        <>
          <Row name="breadth / length">
            <Figure
              value={ratio}
              digits={2}
              label="breadth over length"
              disabled={!may}
              onValue={(v) => change({ ...brush, nib: { ...brush.nib, breadth: v } })}
            />
          </Row>
          <Row name="angle, fixed to">
            <Figure
              value={angle}
              digits={0}
              label="nib angle in degrees"
              disabled={!may}
              onValue={(v) => change({ ...brush, nib: { ...brush.nib, angle_deg: v } })}
            />
            °
          </Row>
          <select
            className="form-select form-select-sm tight"
            aria-label="nib angle fixed to"
            disabled={!may}
            value={brush.nib.angle_from ?? 'page'}
            onChange={(e) => change({ ...brush, nib: { ...brush.nib, angle_from: e.target.value as 'page' } })}
          >
            <option value="page">the page</option>
            <option value="stylus">the stylus</option>
            <option value="travel">the direction of travel</option>
          </select>
        </>
      ) : (
        <p className="soft tight mb-0">
          {known ? 'Round: as wide in every direction. Its angle has no effect.' : `A ${brush.nib.shape} nib is kept, and cannot be inked yet.`}
        </p>
      )}
    </div>
  );
}

export function SmoothingCard({ brush, change, may }: Props) {
  const p = brush.smoothing?.position;
  const on = p?.kind === 'adaptive';
  const set = (v: Schemas['SmoothingKind'] | null) => change({ ...brush, smoothing: v ? { ...brush.smoothing, position: v } : undefined });
  return (
    <div className="card-plain">
      <div className="d-flex justify-content-between">
        <h2>Smoothing</h2>
        <Switch on={on} label="Smoothing" may={may} onChange={(x) => set(x ? { kind: 'adaptive', min_cutoff_hz: 3, speed_coefficient: 0.05 } : null)} />
      </div>
      {on ? (
        <>
          <p className="soft tight mb-1">Adaptive: steadies slow strokes, follows fast ones. Every bit of it lags.</p>
          <Row name="least cut-off">
            <Figure value={p.min_cutoff_hz} digits={1} label="least cut-off in Hz" disabled={!may} onValue={(v) => set({ ...p, min_cutoff_hz: v })} /> Hz
          </Row>
          <Row name="speed coefficient">
            <Figure value={p.speed_coefficient} digits={3} label="speed coefficient" disabled={!may} onValue={(v) => set({ ...p, speed_coefficient: v })} />
          </Row>
        </>
      ) : (
        <p className="soft tight mb-0">None: the line goes where the stylus went.</p>
      )}
    </div>
  );
}
