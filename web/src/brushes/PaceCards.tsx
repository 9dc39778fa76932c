// Pace and pooling: width by the speed of the hand, and the dot where it dwells.
import { type Brush, Card, type CardProps, FigureRow, Switch } from './Card';

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
          <FigureRow
            name="slow speed"
            value={slow[0] ?? 0}
            digits={0}
            label="slow speed in mm/s"
            range={[0, 100000]}
            disabled={!may}
            onValue={(v) => set(0, 0, v)}
            unit="mm/s"
          />
          <FigureRow
            name="width when slow"
            value={slow[1] ?? 1}
            digits={2}
            label="width when slow"
            range={[0.001, 20]}
            disabled={!may}
            onValue={(v) => set(0, 1, v)}
            unit="×"
          />
          <FigureRow
            name="fast speed"
            value={fast[0] ?? 0}
            digits={0}
            label="fast speed in mm/s"
            range={[0, 100000]}
            disabled={!may}
            onValue={(v) => set(last, 0, v)}
            unit="mm/s"
          />
          <FigureRow
            name="width when fast"
            value={fast[1] ?? 1}
            digits={2}
            label="width when fast"
            range={[0.001, 20]}
            disabled={!may}
            onValue={(v) => set(last, 1, v)}
            unit="×"
          />
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
            range={[0.1, 20]}
            disabled={!may}
            onValue={(v) => change({ ...brush, pooling: { ...p, ratio: v } })}
            unit="× line width"
          />
          <FigureRow
            name="two thirds of that after"
            value={p.time_s}
            digits={2}
            label="pooling time in s"
            range={[0.01, 60]}
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
