// Pen, brush and difference over one ruler, for every exercise; a cursor through all; an earlier version compared.
import { type ReactNode, useState } from 'react';
import type { Schemas } from '../api/client';
import { Lane, pathOf, Ruler } from '../lanes/Lane';
import { EFFORTS, effortName } from '../lanes/LinesTable';

export type Exercise = Schemas['LaneExercise'];

/** What the lanes can show besides lines of one effort: what the button says, and what the lane says. */
const EXERCISES: Record<Exercise, { button: string; lane: string }> = {
  flick: { button: 'flick', lane: 'flick out, tip on tip' },
  ramp: { button: 'ramp', lane: 'ramp' },
  slow: { button: 'slow', lane: 'ruled slowly' },
  normal: { button: 'at pace', lane: 'ruled at normal pace' },
  fast: { button: 'fast', lane: 'ruled fast' },
  dots: { button: 'dots', lane: 'dots, held' },
  fan: { button: 'fan', lane: 'by direction drawn' },
  circle: { button: 'circle', lane: 'round the circle' },
  hatching: { button: 'hatching', lane: 'line by line' },
};
const UNIT: Record<Schemas['Along'], string> = {
  mm: 'mm along the line',
  degrees: 'degrees, direction drawn',
  dots: 'dots in a row',
  lines: 'lines of the hatching',
};
/** Those that the hand must have drawn on the tablet, and those inked at normal effort whatever the hand. */
const STEADY: Exercise[] = ['fan', 'hatching'];

/** Height of a closed lane shape at x; none beyond it. */
function heightAt(points: number[][], x: number): number | null {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let i = 0; i < points.length; i++) {
    const [a, b] = [points[i] ?? [0, 0], points[(i + 1) % points.length] ?? [0, 0]];
    const [x0 = 0, y0 = 0] = a;
    const [x1 = 0, y1 = 0] = b;
    if (x < Math.min(x0, x1) || x > Math.max(x0, x1)) continue;
    const y = x1 === x0 ? y0 : y0 + ((y1 - y0) * (x - x0)) / (x1 - x0);
    low = Math.min(low, y);
    high = Math.max(high, y);
  }
  return high >= low ? high - low : null;
}

type Props = {
  /** Whose warm-up is inked, on which tablet; without one a ruled stroke stands in for the hand. */
  through: string | null;
  bench: (Schemas['Bench'] & { exercise: Exercise | null }) | undefined;
  colour: string;
  effort: number;
  exercise: Exercise | null;
  /** Version compared, where one is. */
  under: number | null;
  /** What stands at the right of the lanes. */
  aside: ReactNode;
  /** Beside the choice of what the lanes show. */
  foot: ReactNode;
  onPick: (exercise: Exercise | null, effort?: number) => void;
};

export function BenchLanes({ bench, through, colour, effort, exercise, under, foot, aside, onPick }: Props) {
  const [cursor, setCursor] = useState<number | null>(null);
  const lane = bench?.lane;
  const along = lane?.along ?? 'mm';
  const length = Math.max(lane?.length_mm ?? 60, 1);
  const X = 1000 / length;
  const shapes = [...(lane?.pen ?? []), ...(lane?.brush ?? []), ...(lane?.under ?? [])];
  const tall = Math.max(along === 'mm' ? 0.7 : 0.3, ...shapes.map((p) => Math.abs(p[1] ?? 0))) * 1.35;
  const path = (points: number[][]) =>
    pathOf(
      points,
      (s) => s * X,
      (s) => s,
      true,
    );
  const shape = (points: number[][], fill: string, below?: number[][]) => (
    <svg viewBox={`0 ${-tall} 1000 ${2 * tall}`} preserveAspectRatio="none" style={{ height: 46 }} aria-hidden>
      {below && <path d={path(below)} fill="var(--eddy)" opacity="0.35" />}
      <path d={path(points)} fill={fill} fillOpacity={below ? 0.75 : 1} />
    </svg>
  );
  const difference = lane?.difference ?? [];
  const spread = bench?.spread_um ?? null;
  // Ends run far out of any band: the lane is scaled to what lies between them.
  const sizes = difference.map((d) => Math.abs(d[1] ?? 0)).sort((a, b) => a - b);
  const most = Math.max(20, spread ? spread * 1.6 : 0, sizes[Math.floor(sizes.length * 0.85)] ?? 0) * 1.15;
  const y = (um: number) => 34 - Math.max(-33, Math.min(33, (um / most) * 32));
  const area = (side: 1 | -1) =>
    pathOf(
      [
        [difference[0]?.[0] ?? 0, 0],
        ...difference.map((d) => [d[0] ?? 0, Math.max(0, side * (d[1] ?? 0)) * side]),
        [difference[difference.length - 1]?.[0] ?? 0, 0],
      ],
      (s) => s * X,
      y,
      true,
    );
  const at = cursor === null ? null : cursor * length;
  const [penAt, brushAt] = at === null || !lane ? [null, null] : [heightAt(lane.pen, at), heightAt(lane.brush, at)];
  const unit = along === 'degrees' ? '°' : along === 'mm' ? ' mm' : '';
  // What the lanes show, which may still be what was asked for before.
  const shown = bench ? bench.exercise : exercise;
  const what = shown ? EXERCISES[shown].lane : `${effortName(bench?.effort ?? effort)} effort`;
  const hatching = lane?.hatching;
  const dense = (k: 0 | 1) => hatching?.[k] && `coarseness ${hatching[k].coarseness.toFixed(2)}`;
  return (
    <>
      <div className="lanes" style={{ display: 'grid', gridTemplateColumns: '1fr 210px' }}>
        {/* The cursor is a reading aid for the pointer; the figures stand in the lanes as text. */}
        <div
          style={{ minWidth: 0, position: 'relative' }}
          onPointerLeave={() => setCursor(null)}
          onPointerMove={(e) => {
            const body = e.currentTarget.querySelector('.body')?.getBoundingClientRect();
            if (!body) return;
            const u = (e.clientX - body.left) / body.width;
            setCursor(u >= 0 && u <= 1 ? u : null);
          }}
        >
          <Ruler length={length} unit={UNIT[along]} />
          <Lane
            name="Pen"
            says={
              lane?.pen.length ? (
                <>
                  {what}
                  {' · '}
                  {lane.pen_mm.toFixed(3)} mm {dense(0)}
                </>
              ) : shown ? (
                'its sheet shows none'
              ) : (
                'no line at this effort'
              )
            }
            tint="#f4efe4"
          >
            {shape(lane?.pen ?? [], '#26232a')}
          </Lane>
          <Lane
            name="Brush"
            says={
              lane?.brush.length ? (
                <>
                  {shown && STEADY.includes(shown)
                    ? 'at normal effort'
                    : shown
                      ? 'the hand’s, inked'
                      : through === null
                        ? 'a ruled stand-in, no warm-up'
                        : 'same effort, inked'}
                  {' · '}
                  {lane.brush_mm.toFixed(3)} mm {dense(1)}
                </>
              ) : !bench ? (
                ''
              ) : through === null ? (
                'no stroke of a hand: warm up on a tablet'
              ) : (
                `no such stroke in the warm-up: ${through}`
              )
            }
          >
            {shape(lane?.brush ?? [], colour, lane?.under.length ? lane.under : undefined)}
            {under !== null && !!lane?.under.length && (
              <span className="tight" style={{ position: 'absolute', right: 6, top: 0, fontSize: '0.8rem', color: 'var(--eddy)' }}>
                version {under} compared
              </span>
            )}
          </Lane>
          <Lane name="Difference" says={<>heavier up, ± {most.toFixed(0)} µm</>}>
            <svg viewBox="0 0 1000 68" preserveAspectRatio="none" style={{ height: 54 }} aria-hidden>
              {spread && (
                <rect x="0" width="1000" y={y(spread)} height={y(-spread) - y(spread)} fill="var(--band)" stroke="var(--band-edge)" strokeDasharray="4 3" />
              )}
              <path d={area(1)} fill="var(--heavy)" opacity="0.85" />
              <path d={area(-1)} fill="var(--thin)" opacity="0.85" />
              <line x1="0" x2="1000" y1="34" y2="34" stroke="var(--ink-soft)" />
            </svg>
            {lane && <DrawnOtherwise lane={lane} />}
          </Lane>
          {cursor !== null && (
            <div className="lane-cursor" style={{ left: `calc(var(--gutter) + (100% - var(--gutter)) * ${cursor})` }} aria-hidden>
              <span className={`lane-cursor-says ${cursor > 0.7 ? 'left' : ''}`}>
                {along === 'mm' || along === 'degrees' ? `${(at ?? 0).toFixed(along === 'mm' ? 1 : 0)}${unit}: ` : ''}
                pen {penAt?.toFixed(3) ?? '–'} · brush {brushAt?.toFixed(3) ?? '–'} mm
                {penAt !== null && brushAt !== null ? ` · ${brushAt >= penAt ? '+' : '−'}${Math.abs(1000 * (brushAt - penAt)).toFixed(0)} µm` : ''}
              </span>
            </div>
          )}
        </div>
        {aside}
      </div>
      <div className="d-flex align-items-center flex-wrap">
        <div className="tabs my-1" role="group" aria-label="what the lanes show">
          <span className="soft tight me-2">lines at</span>
          {EFFORTS.map(([e, name]) => (
            <button key={e} type="button" aria-pressed={!exercise && effort === e} onClick={() => onPick(null, e)}>
              {name}
            </button>
          ))}
          <span className="soft tight mx-2">effort, or</span>
          {(Object.keys(EXERCISES) as Exercise[]).map((e) => (
            <button key={e} type="button" aria-pressed={exercise === e} onClick={() => onPick(e)}>
              {EXERCISES[e].button}
            </button>
          ))}
        </div>
        {foot}
      </div>
    </>
  );
}

/** What of the difference is the hand's on the one stroke that is shown, and not the brush's. */
function DrawnOtherwise({ lane: { pressed, paced } }: { lane: Schemas['Lane'] }) {
  const says = [
    paced && `drawn at ${paced.hand.toFixed(0)} mm/s, the pen’s at ${paced.pen.toFixed(0)}`,
    pressed &&
      `the hand pressed ${pressed.wider > 0 ? 'harder' : 'lighter'} (${pressed.effort.toFixed(2)} for ${pressed.meant.toFixed(2)}), which alone makes it ${Math.abs(100 * pressed.wider).toFixed(0)} % ${pressed.wider > 0 ? 'heavier' : 'thinner'}`,
  ].filter(Boolean);
  if (!says.length) return null;
  return (
    <span className="tight" style={{ position: 'absolute', left: 6, bottom: 0, fontSize: '0.8rem', color: 'var(--ink)' }}>
      this stroke: {says.join('; ')}
    </span>
  );
}
