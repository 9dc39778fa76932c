// The lines of a scan: each straightened with its edges, its figures, and the effort it was ruled at.
import type { Schemas } from '../api/client';
import { StraightLine } from './PenLineView';

export const EFFORTS = [
  [0, 'feather'],
  [0.25, 'light'],
  [0.5, 'normal'],
  [0.75, 'firm'],
  [1, 'hardest'],
] as const;

export function effortName(e: number | null | undefined) {
  return EFFORTS.find(([v]) => v === e)?.[1] ?? 'not set';
}

type Props = {
  measurement: Schemas['LineMeasurement'];
  lines: Schemas['PenLine'][];
  efforts: (number | null)[];
  onEffort?: (index: number, effort: number | null) => void;
};

export function LinesTable({ measurement, lines, efforts, onEffort }: Props) {
  const longest = Math.max(...lines.map((l) => l.strip_mm[0] ?? 1));
  return (
    <div className="lanes">
      {measurement.lines.map((m, i) => {
        const line = lines[i];
        return (
          <div className="lane" key={i} id={`line-${i + 1}`} style={{ gridTemplateColumns: '130px 1fr 300px' }}>
            <div className="gutter">
              <b>line {i + 1}</b>
              {onEffort ? (
                <select
                  className="form-select form-select-sm tight mt-1"
                  aria-label={`effort of line ${i + 1}`}
                  value={efforts[i] ?? ''}
                  onChange={(e) => onEffort(i, e.target.value === '' ? null : Number(e.target.value))}
                >
                  <option value="">not set</option>
                  {EFFORTS.map(([v, name]) => (
                    <option key={v} value={v}>
                      {name}
                    </option>
                  ))}
                </select>
              ) : (
                <span>{effortName(efforts[i])} effort</span>
              )}
            </div>
            <div className="body d-flex align-items-center" style={{ background: '#fff' }}>
              {line && <StraightLine line={line} length={longest} />}
            </div>
            <div className="tight px-3 py-1" style={{ fontSize: '0.88rem' }}>
              <b>
                {m.width_mm.mean.toFixed(3)} ± {m.width_mm.sd.toFixed(3)} mm
              </b>{' '}
              <span className="soft">over {m.from_mm.toFixed(0)} mm</span>
              <div className="soft">
                {m.raggedness_um != null && m.blurriness_um != null && `ragged ${m.raggedness_um.toFixed(1)} µm · blur ${m.blurriness_um.toFixed(0)} µm · `}
                {(Math.abs(m.angle_deg) < 0.005 ? 0 : m.angle_deg).toFixed(2)}°
              </div>
            </div>
          </div>
        );
      })}
    </div>
  );
}
