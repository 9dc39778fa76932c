// What of a drawing must be fixed: what a lead chose when it was returned, else all that the guide says must be.
import type { Schemas } from '../api/client';

type Fix = Schemas['Fix'];
type Finding = Schemas['Finding'];

/** Findings this near to the place that was named are the one that was, px. */
const NEAR = 10;

const names = (fix: Fix, f: Finding) =>
  fix.kind === f.kind && (fix.role == null || fix.role === f.role) && (!fix.at || Math.hypot(f.x - (fix.at[0] ?? 0), f.y - (fix.at[1] ?? 0)) <= NEAR);

/** Whether a finding must be fixed, by what was chosen: nothing chosen is all that the guide says. */
export function mustFix(fix: Fix[] | null | undefined) {
  return (f: Finding) => !f.dismissed && (fix ? fix.some((x) => names(x, f)) : f.must_mend);
}

/** What was chosen when the drawing was last returned. */
export function chosen(drawing: Schemas['DrawingView']): Fix[] | null {
  const last = drawing.decisions[drawing.decisions.length - 1];
  return last?.state === 'return' ? (last.fix ?? null) : null;
}
