// How much of a drawing was measured, and as what, in words.
import type { Schemas } from '../api/client';
import { MASKED } from './DrawingView';

/** How much of the lines was measured, and what was left out as no line. */
export function measured(check: Schemas['DrawingCheck']) {
  const length = check.roles.reduce((s, r) => s + r.length_px, 0);
  const share = check.roles.reduce((s, r) => s + r.length_px * r.measured_share, 0) / (length || 1);
  const hatching = check.roles.flatMap((r) => (r.hatching ? [`${r.hatching.strokes.toLocaleString()} strokes of ${r.role}`] : []));
  const kinds = [...new Set(check.masked?.map((m) => MASKED[m.kind]))];
  return `${(100 * share).toFixed(0)} % of the line length measured; ends, junctions and corners are left out${kinds.length ? `, nor ${kinds.join(', ')} (shown hatched)` : ''}${hatching.length ? `. Measured as hatching: ${hatching.join(', ')}` : ''}`;
}

/** What the picture was taken for, where that matters or was a close call. */
export function takenAs({ source }: Schemas['DrawingCheck']) {
  const doubt = source?.assumed?.find((a) => a.startsWith('taken as'));
  if (doubt) return ` · ${doubt}`;
  if (!source || source.kind === 'drawing') return '';
  return ` · ${source.from.kind === 'stated' ? 'given as' : 'taken as'} a ${source.kind}: its paper was removed first`;
}
