// The brush's parts as cards, each with its verdict, a lock, and a direct handle beside exact numbers: nib, tapers, pace, pooling.
import { useRef } from 'react';
import type { Schemas } from '../api/client';
import { type Brush, Card, type CardProps, FigureRow, Switch } from './Card';
import { Handle } from './Handle';
import { type Ring, ShapeEditor } from './ShapeEditor';

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
          <svg viewBox="0 0 180 40" width="100%" role="group" aria-label={`${name}: drag its length and its tip width`}>
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
            disabled={!may}
            onValue={(v) => set({ length_mm: v })}
            unit="mm"
          />
          <FigureRow
            name="at most"
            value={(t.share ?? 1) * 100}
            digits={0}
            label={`${name} share in per cent`}
            disabled={!may}
            onValue={(v) => set({ share: v / 100 })}
            unit="% of the stroke"
          />
          <FigureRow
            name="tip width"
            value={t.tip_width_mm ?? 0}
            digits={3}
            label={`${name} tip width in mm`}
            disabled={!may}
            onValue={(v) => set({ tip_width_mm: v })}
            unit="mm"
          />
          <FigureRow name="shape" value={t.shape ?? 1} digits={2} label={`${name} shape`} disabled={!may} onValue={(v) => set({ shape: v })} />
          <FigureRow
            name="only above"
            value={t.over_mm_s ?? 0}
            digits={0}
            label={`${name} least speed in mm/s`}
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

const SHAPES = [
  ['round', 'round'],
  ['ellipse', 'elliptical'],
  ['spring', 'spring, opens on the pull'],
  ['polygon', 'polygon, one piece'],
  ['drawn', 'drawn, any number of pieces'],
] as const;

export function NibCard({ brush, change, preview, may, match }: CardProps) {
  const { nib } = brush;
  const set = (v: Partial<Schemas['Nib']>) => change({ ...brush, nib: { ...nib, ...v } });
  const ratio = nib.shape === 'round' || nib.shape === 'spring' ? 1 : (nib.breadth ?? 1);
  const angle = nib.angle_deg ?? 0;
  const turns = nib.shape !== 'round' && nib.shape !== 'spring';
  const pick = (shape: Schemas['NibShape']) => {
    if (shape === 'ellipse') set({ shape, breadth: nib.breadth ?? 0.5, angle_deg: nib.angle_deg || 35, points: undefined });
    else if (shape === 'spring') set({ shape, opening_mm: nib.opening_mm ?? 0.4, pull_deg: nib.pull_deg ?? 265, points: undefined });
    else if (shape === 'polygon' || shape === 'drawn')
      set({
        shape,
        points: nib.points ?? [
          [-0.5, -0.15],
          [0.5, -0.15],
          [0.5, 0.15],
          [-0.5, 0.15],
        ],
        pieces: shape === 'drawn' ? nib.pieces : undefined,
      });
    else set({ shape, points: undefined });
  };
  const rings = [nib.points ?? [], ...(nib.pieces ?? [])];
  const drawn = nib.shape === 'polygon' || nib.shape === 'drawn';
  const set3 = (v: Partial<Schemas['Nib']>, done: boolean) => (done ? change : preview)({ ...brush, nib: { ...nib, ...v } });
  const turned = (deg: number) => Math.round((((deg % 360) + 540) % 360) - 180);
  const [cos, sin] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  return (
    <Card title="Nib" part="nib" match={match} may={may}>
      <svg viewBox="-50 -26 100 52" width="100%" style={{ maxHeight: 84 }} role="group" aria-label="the nib as it stands on the page">
        <circle r="24" fill="none" stroke="var(--hairline)" />
        <g transform={`rotate(${-angle})`} fill="var(--ink)">
          {nib.points ? (
            rings.map((r, i) => <path key={i} d={`M${r.map(([x = 0, y = 0]) => `${40 * x} ${40 * y * ratio}`).join('L')}Z`} />)
          ) : (
            <ellipse rx="20" ry={20 * ratio} />
          )}
        </g>
        {nib.shape === 'spring' && (
          <line
            x2={24 * Math.cos(((nib.pull_deg ?? 0) * Math.PI) / 180)}
            y2={-24 * Math.sin(((nib.pull_deg ?? 0) * Math.PI) / 180)}
            stroke="var(--eddy)"
            strokeWidth="2"
          />
        )}
        {nib.shape === 'ellipse' && (
          <>
            <Handle
              x={20 * cos}
              y={-20 * sin}
              label="nib: angle"
              value={angle}
              text={`${angle.toFixed(0)} degrees`}
              disabled={!may}
              onDrag={(to, _, done) => set3({ angle_deg: turned((Math.atan2(-to[1], to[0]) * 180) / Math.PI) }, done)}
              onStep={(k) => set3({ angle_deg: turned(angle + k) }, true)}
            />
            <Handle
              x={-20 * ratio * sin}
              y={-20 * ratio * cos}
              label="nib: breadth over length"
              value={ratio}
              text={ratio.toFixed(2)}
              disabled={!may}
              onDrag={(to, _, done) => set3({ breadth: Math.round(Math.max(0.02, Math.min(1, Math.abs(to[0] * sin + to[1] * cos) / 20)) * 100) / 100 }, done)}
              onStep={(k) => set3({ breadth: Math.max(0.02, Math.min(1, Math.round((ratio + 0.01 * k) * 100) / 100)) }, true)}
            />
          </>
        )}
        {nib.shape === 'spring' && (
          <Handle
            x={24 * Math.cos(((nib.pull_deg ?? 0) * Math.PI) / 180)}
            y={-24 * Math.sin(((nib.pull_deg ?? 0) * Math.PI) / 180)}
            label="nib: direction of the pull"
            value={nib.pull_deg ?? 0}
            text={`${(nib.pull_deg ?? 0).toFixed(0)} degrees`}
            disabled={!may}
            onDrag={(to, _, done) => set3({ pull_deg: turned((Math.atan2(-to[1], to[0]) * 180) / Math.PI) }, done)}
            onStep={(k) => set3({ pull_deg: turned((nib.pull_deg ?? 0) + k) }, true)}
          />
        )}
      </svg>
      {drawn && (
        <ShapeEditor
          label="nib"
          rings={rings as Ring[]}
          pieces={nib.shape === 'drawn'}
          reach={[0.62, 0.4]}
          disabled={!may}
          onChange={(next, done) => set3({ points: next[0], pieces: next.length > 1 ? next.slice(1) : undefined }, done)}
        />
      )}
      <select
        className="form-select form-select-sm tight mb-1"
        aria-label="shape of the nib"
        disabled={!may}
        value={nib.shape}
        onChange={(e) => pick(e.target.value as Schemas['NibShape'])}
      >
        {SHAPES.map(([v, label]) => (
          <option key={v} value={v}>
            {label}
          </option>
        ))}
      </select>
      {turns && (
        <>
          <FigureRow name="breadth / length" value={ratio} digits={2} label="breadth over length" disabled={!may} onValue={(v) => set({ breadth: v })} />
          <FigureRow
            name="angle, fixed to"
            value={angle}
            digits={0}
            label="nib angle in degrees"
            disabled={!may}
            onValue={(v) => set({ angle_deg: v })}
            unit="°"
          />
          <select
            className="form-select form-select-sm tight"
            aria-label="nib angle fixed to"
            disabled={!may}
            value={nib.angle_from ?? 'page'}
            onChange={(e) => set({ angle_from: e.target.value as 'page' })}
          >
            <option value="page">the page</option>
            <option value="stylus">the stylus</option>
            <option value="travel">the direction of travel</option>
          </select>
          <FigureRow
            name="random turn"
            value={nib.turn_range_deg ?? 0}
            digits={0}
            label="random turn in degrees"
            disabled={!may}
            onValue={(v) => set({ turn_range_deg: v })}
            unit="°"
          />
        </>
      )}
      {nib.shape === 'spring' && (
        <>
          <FigureRow
            name="opens, at full effort"
            value={nib.opening_mm ?? 0}
            digits={3}
            label="opening in mm"
            disabled={!may}
            onValue={(v) => set({ opening_mm: v })}
            unit="mm"
          />
          <FigureRow
            name="opens toward"
            value={nib.pull_deg ?? 0}
            digits={0}
            label="pull in degrees"
            disabled={!may}
            onValue={(v) => set({ pull_deg: v })}
            unit="°"
          />
        </>
      )}
      <FigureRow
        name="wider when tilted"
        value={nib.widen_by_tilt ?? 1}
        digits={2}
        label="width when tilted"
        disabled={!may}
        onValue={(v) => set({ widen_by_tilt: v })}
        unit="×"
      />
      {nib.shape === 'round' && <p className="soft tight mb-0">As wide in every direction: an angle would have no effect.</p>}
    </Card>
  );
}

const DRIVERS = [
  ['', 'automatic'],
  ['effort', 'effort alone'],
  ['speed', 'speed alone'],
  ['both', 'effort and speed'],
  ['none', 'nothing: one width'],
] as const;

export function PaceCard({ brush, change, may, match }: CardProps) {
  const knots = brush.pace;
  const slow = knots?.[0];
  const fast = knots?.[knots.length - 1];
  const idle = knots && (brush.driver === 'effort' || brush.driver === 'none');
  const set = (i: number, k: 0 | 1, v: number) =>
    change({ ...brush, pace: (knots ?? []).map((x, j) => (j === i ? (k ? [x[0] ?? 0, v] : [v, x[1] ?? 1]) : x)) });
  const last = (knots?.length ?? 1) - 1;
  return (
    <Card
      title="Pace"
      part="pace"
      match={match}
      may={may}
      aside={
        <Switch
          on={!!knots}
          label="Pace"
          may={may}
          onChange={(on) =>
            change({
              ...brush,
              pace: on
                ? [
                    [20, 1],
                    [200, 0.8],
                  ]
                : null,
              driver: undefined,
            })
          }
        />
      }
    >
      {knots && slow && fast ? (
        <>
          <FigureRow name="slow speed" value={slow[0] ?? 0} digits={0} label="slow speed in mm/s" disabled={!may} onValue={(v) => set(0, 0, v)} unit="mm/s" />
          <FigureRow name="width when slow" value={slow[1] ?? 1} digits={2} label="width when slow" disabled={!may} onValue={(v) => set(0, 1, v)} unit="×" />
          <FigureRow
            name="fast speed"
            value={fast[0] ?? 0}
            digits={0}
            label="fast speed in mm/s"
            disabled={!may}
            onValue={(v) => set(last, 0, v)}
            unit="mm/s"
          />
          <FigureRow name="width when fast" value={fast[1] ?? 1} digits={2} label="width when fast" disabled={!may} onValue={(v) => set(last, 1, v)} unit="×" />
          {idle && <p className="soft tight mb-0">No effect: the width is driven by {brush.driver === 'none' ? 'nothing' : 'effort alone'}.</p>}
        </>
      ) : (
        <p className="soft tight mb-1">None: as wide at every speed of the hand.</p>
      )}
      <label className="soft tight w-100 mt-1">
        the width is driven by
        <select
          className="form-select form-select-sm tight"
          aria-label="what drives the width"
          disabled={!may}
          value={brush.driver ?? ''}
          onChange={(e) => change({ ...brush, driver: (e.target.value || undefined) as Brush['driver'] })}
        >
          {DRIVERS.map(([v, label]) => (
            <option key={v} value={v}>
              {label}
            </option>
          ))}
        </select>
      </label>
    </Card>
  );
}

export function PoolingCard({ brush, change, may, match }: CardProps) {
  const p = brush.pooling;
  return (
    <Card
      title="Pooling"
      part="pooling"
      match={match}
      may={may}
      aside={<Switch on={!!p} label="Pooling" may={may} onChange={(on) => change({ ...brush, pooling: on ? { ratio: 1.3, time_s: 0.4 } : null })} />}
    >
      {p ? (
        <>
          <FigureRow
            name="held dot"
            value={p.ratio}
            digits={2}
            label="pooling ratio"
            disabled={!may}
            onValue={(v) => change({ ...brush, pooling: { ...p, ratio: v } })}
            unit="× line width"
          />
          <FigureRow
            name="two thirds of that after"
            value={p.time_s}
            digits={2}
            label="pooling time in s"
            disabled={!may}
            onValue={(v) => change({ ...brush, pooling: { ...p, time_s: v } })}
          >
            {' '}
            s
          </FigureRow>
        </>
      ) : (
        <p className="soft tight mb-0">None: a pen that rests leaves no dot.</p>
      )}
    </Card>
  );
}
