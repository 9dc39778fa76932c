// The previous and the next drawing shown through: which are, their lines, and how scanned ones are moved to lie on this one.
import { useQueries } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schemas, take } from '../api/client';

export type Move = Schemas['Move'];
/** A drawing shown through; moved where it is a scan that could be laid on this one. */
export type Ghost = { drawing: Schemas['DrawingView']; laid: Move | null; scans: boolean };

export const drawingQuery = (production: string, id: string | undefined) => ({
  queryKey: ['drawing', id],
  enabled: !!id,
  queryFn: () => take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params: { path: { production, id: id ?? '' } } })),
});

/** A move as the picture's transform. */
export const transformOf = (m: Move | null | undefined) => (m ? `translate(${m.shift_px.join(' ')}) rotate(${m.turn_deg} ${m.about.join(' ')})` : undefined);

/** How a scan was laid on another, in words. */
export function saysLaid(which: string, m: Move) {
  const far = Math.hypot(m.shift_px[0] ?? 0, m.shift_px[1] ?? 0);
  return `${which} is laid on this scan by ${m.by_marks ? 'the registration marks' : 'its lines'}: shifted ${far.toFixed(1)} px, turned ${Math.abs(m.turn_deg).toFixed(2)}°`;
}

type Row = { id: string } | undefined;

export function useBehind(production: string, drawing: Schemas['DrawingView'] | undefined, before: Row, after: Row) {
  const [behind, setBehind] = useState({ previous: false, next: false });
  const ids = [behind.previous ? before?.id : undefined, behind.next ? after?.id : undefined];
  const views = useQueries({ queries: ids.map((id) => drawingQuery(production, id)) });
  const isScan = (d: Schemas['DrawingView'] | undefined) => !!d?.check?.source && d.check.source.kind !== 'drawing';
  const scans = views.map((v) => isScan(drawing) && isScan(v.data));
  const laid = useQueries({
    queries: ids.map((id, i) => ({
      queryKey: ['laid', id, drawing?.id],
      enabled: !!id && scans[i] === true,
      queryFn: () =>
        take(
          api.GET('/api/v1/productions/{production}/drawings/{id}/laid-on/{onto}', {
            params: { path: { production, id: id ?? '', onto: drawing?.id ?? '' } },
          }),
        ),
    })),
  });
  const ghosts = views.map((v, i): Ghost | null => {
    const [shown, lies, both] = [ids[i] ? v.data : undefined, laid[i]?.data, scans[i] === true];
    // A scan that is still being laid is not shown lying wrong; one that could not be is shown as it lies, and it is said.
    return shown && (!both || lies || laid[i]?.isError) ? { drawing: shown, laid: lies?.laid ?? null, scans: both } : null;
  });
  const says = ghosts.flatMap((g, i) => {
    const which = i === 0 ? 'The previous drawing' : 'The next drawing';
    if (ids[i] && views[i]?.isError) return [`${which} could not be loaded: turn it off and on again`];
    if (scans[i] && laid[i]?.isError) return [`${which} could not be laid on this scan (${laid[i]?.error?.message ?? 'no answer'}): it is shown as it lies`];
    if (ids[i] && scans[i] && laid[i]?.isPending) return [`${which} is being laid on this scan`];
    if (!g?.scans) return [];
    return [g.laid ? saysLaid(which, g.laid) : `${which} has too little in common with this scan: it is shown as it lies`];
  });
  return { behind, setBehind, ghosts, says };
}
