// The nib: its shape, breadth and angle dragged on the page's directions, beside exact numbers.
import type { Schemas } from '../api/client';
import { Card, type CardProps, FigureRow } from './Card';
import { Handle } from './Handle';
import { type Ring, ShapeEditor } from './ShapeEditor';

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
      <svg className="part-figure" viewBox="-50 -26 100 52" width="100%" style={{ maxHeight: 190 }} role="group" aria-label="the nib as it stands on the page">
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
        <div className="part-figure">
          <ShapeEditor
            label="nib"
            rings={rings as Ring[]}
            pieces={nib.shape === 'drawn'}
            reach={[0.62, 0.4]}
            disabled={!may}
            onChange={(next, done) => set3({ points: next[0], pieces: next.length > 1 ? next.slice(1) : undefined }, done)}
          />
        </div>
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
          <FigureRow
            name="breadth / length"
            value={ratio}
            digits={2}
            label="breadth over length"
            range={[0.01, 1]}
            disabled={!may}
            onValue={(v) => set({ breadth: v })}
          />
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
            range={[0, 360]}
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
            range={[0, 100]}
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
        range={[0.05, 20]}
        disabled={!may}
        onValue={(v) => set({ widen_by_tilt: v })}
        unit="×"
      />
      {nib.shape === 'round' && <p className="soft tight mb-0">As wide in every direction: an angle would have no effect.</p>}
    </Card>
  );
}
