// The weight of the line in hand against the guide's, told beside the pen and in the head; what tells it does not draw the page anew.
import { useRef, useSyncExternalStore } from 'react';
import type { Schemas } from '../api/client';

export type Weight = { get: () => number | null; set: (px: number) => void; watch: (f: () => void) => () => void };
type Goal = { goal: number; tolerance: number } | null;

export function useWeight(): Weight {
  const made = useRef<Weight | null>(null);
  if (!made.current) {
    let px: number | null = null;
    const watchers = new Set<() => void>();
    made.current = {
      get: () => px,
      set: (to) => {
        px = to;
        for (const f of watchers) f();
      },
      watch: (f) => {
        watchers.add(f);
        return () => watchers.delete(f);
      },
    };
  }
  return made.current;
}

/** What the guide asks of a role on a page of this width, px; none where it asks nothing. */
export function judged(guide: Schemas['LineGuide'] | undefined, role: string | undefined, width_px: number): Goal {
  const weight = guide?.roles.find((r) => r.name === role)?.weight_px;
  if (!guide || !weight) return null;
  const scale = width_px / guide.page.width_px;
  return { goal: weight.target * scale, tolerance: weight.tolerance * weight.target * scale };
}

function word(px: number, goal: Goal) {
  if (!goal) return '';
  const off = px - goal.goal;
  return Math.abs(off) <= goal.tolerance ? 'within' : off > 0 ? 'heavy' : 'thin';
}

export function Tag({ weight, goal }: { weight: Weight; goal: Goal }) {
  const px = useSyncExternalStore(weight.watch, weight.get);
  if (px === null) return null;
  const says = word(px, goal);
  return (
    <b className={says === 'within' ? '' : says}>
      {px.toFixed(2)} px{says && `: ${says}`}
    </b>
  );
}

export function Verdict({ weight, goal, role }: { weight: Weight; goal: Goal; role: string | undefined }) {
  const px = useSyncExternalStore(weight.watch, weight.get);
  if (px === null) return <span className="soft">draw to see the weight on the line</span>;
  const says = word(px, goal);
  if (!goal)
    return (
      <>
        <b>{px.toFixed(2)} px</b> <span className="soft">the guide has no weight for {role}</span>
      </>
    );
  return (
    <>
      <b className={says === 'within' ? '' : says}>
        {px.toFixed(2)} px: {says}
      </b>{' '}
      <span className="soft">
        {role} ({goal.goal.toFixed(1)} ± {goal.tolerance.toFixed(1)} px)
      </span>
    </>
  );
}
