// Beside the lines of an SVG: choosing them, and how the chosen ones are inked.
import type { Schemas } from '../api/client';
import { COURSES } from '../parts/courses';
import { Figure } from '../parts/Figure';
import { OwnTapers } from '../parts/OwnTapers';
import type { Line, usePaths } from './usePaths';

/** The named shapes at five places along the line, as `contracts` has them: where a custom one begins. */
const NAMED: Record<string, number[]> = {
  even: [0.5, 0.5, 0.5, 0.5, 0.5],
  swell: [0, 0.71, 1, 0.71, 0],
  rise: [0, 0.25, 0.5, 0.75, 1],
  fall: [1, 0.75, 0.5, 0.25, 0],
};
export const knots = (efforts: number[]) => JSON.stringify(efforts.map((e, i) => [i / (efforts.length - 1), e]));
const custom = (course: string) => course.startsWith('[');
/** Efforts at even places along a line. */
export const effortsOf = (course: string) => (custom(course) ? (JSON.parse(course) as [number, number][]).map((k) => k[1]) : (NAMED[course] ?? null));

type Adding = 'new' | 'add' | 'take';
type Props = {
  work: ReturnType<typeof usePaths>;
  rack: Schemas['BrushSummary'][];
  adding: Adding;
  setAdding: (a: Adding) => void;
  /** Whether the points of the chosen line are dragged on it, or its pressure. */
  nudging: boolean;
  setNudging: (v: boolean) => void;
  onChoose: (which: number[]) => void;
};

export function PathCards({ work: w, rack, adding, setAdding, nudging, setNudging, onChoose }: Props) {
  const { lines, chosen } = w;
  const of = (f: (l: Line) => boolean) => onChoose(lines.flatMap((l, i) => (f(l) ? [i] : [])));
  const one = w.picked[0];
  return (
    <div style={{ flex: '0 0 250px' }} className="tight">
      <div className="card-plain mb-2">
        <h2>Choose</h2>
        <div className="tabs mb-1" role="group" aria-label="what choosing does">
          {(
            [
              ['new', 'new choice'],
              ['add', 'add to it'],
              ['take', 'take from it'],
            ] as const
          ).map(([k, word]) => (
            <button key={k} type="button" aria-pressed={adding === k} onClick={() => setAdding(k)}>
              {word}
            </button>
          ))}
        </div>
        <div className="d-flex gap-3">
          <button type="button" className="btn-word" onClick={() => of(() => true)}>
            All
          </button>
          <button type="button" className="btn-word" onClick={() => w.setChosen(new Set(lines.flatMap((_, i) => (chosen.has(i) ? [] : [i]))))}>
            The others
          </button>
          <button type="button" className="btn-word" onClick={() => w.setChosen(new Set())}>
            None
          </button>
        </div>
        {(['colour', 'layer'] as const).map((key) => (
          <select
            key={key}
            className="form-select form-select-sm tight mt-1"
            aria-label={`choose by ${key}`}
            value=""
            onChange={(e) => of((x) => x[key] === e.target.value.slice(1))}
          >
            <option value="">by {key}…</option>
            {[...new Set(lines.map((l) => l[key]))].map((v) => (
              <option key={v} value={`:${v}`}>
                {v || `no ${key}`} ({lines.filter((x) => x[key] === v).length})
              </option>
            ))}
          </select>
        ))}
        <div className="mt-1">
          <button type="button" className="btn-word" onClick={() => of((x) => x.length_mm >= 20)}>
            20 mm and longer
          </button>
          {' · '}
          <button type="button" className="btn-word" onClick={() => of((x) => x.length_mm < 20)}>
            shorter
          </button>
        </div>
      </div>
      <div className="card-plain">
        <h2>How they are inked</h2>
        {one ? (
          <>
            <label className="d-block">
              brush
              <select
                className="form-select form-select-sm tight"
                aria-label="brush of the chosen lines"
                value={one.brush}
                onChange={(e) => w.set({ brush: e.target.value })}
              >
                {rack.map((x) => (
                  <option key={x.id} value={x.id}>
                    {x.name}, version {x.current_version}
                  </option>
                ))}
              </select>
            </label>
            <label className="d-block">
              pressure along the line
              <select
                className="form-select form-select-sm tight"
                value={custom(one.course) ? 'own' : one.course}
                onChange={(e) => w.set({ course: e.target.value === 'own' ? knots(effortsOf(one.course) ?? []) : e.target.value })}
              >
                {COURSES.map(([v, word]) => (
                  <option key={v} value={v}>
                    {word}
                  </option>
                ))}
                <option value="own">custom</option>
              </select>
            </label>
            <div className="figure-row">
              <span>weight factor</span>
              <b>
                <Figure value={one.factor} digits={2} label="weight factor" range={[0.05, 20]} onValue={(v) => w.set({ factor: v })} /> ×
              </b>
            </div>
            <OwnTapers
              own={one.tapers}
              brush={rack.find((x) => x.id === one.brush)?.brush}
              onChange={(v) => w.set((l) => ({ tapers: { ...l.tapers, ...v } }))}
            />
            <button type="button" className="btn-word" onClick={() => w.set((l) => ({ reversed: !l.reversed }))}>
              Reverse lines
            </button>
            <div className="tabs my-1" role="group" aria-label="what is dragged on the line">
              <button type="button" aria-pressed={!nudging} onClick={() => setNudging(false)}>
                pressure
              </button>
              <button type="button" aria-pressed={nudging} disabled={chosen.size !== 1} onClick={() => setNudging(true)}>
                points
              </button>
            </div>
            <p className="soft mb-0">
              {nudging && chosen.size === 1
                ? 'Drag a point to nudge it, a dashed one to add it. By keys: arrows, Delete.'
                : 'Drag the pressure on the first chosen line; the other chosen lines follow. Points are nudged on one line at a time. Longer lines taper more where the brush’s tapers take a share of the stroke.'}
            </p>
          </>
        ) : (
          <p className="soft mb-0">Choose lines first, by layer or colour for one brush each. Every line begins as a swell.</p>
        )}
      </div>
    </div>
  );
}
