// How a hand goes over its lines while it does: how near the last stroke lies, whether to do it again, and which lines still want it.
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api, take } from '../api/client';
import { type GoneOver as Gone, goneOver, loadEngine, type Samples } from '../engine/engine';
import { useOpen } from '../session';
import type { PageScan } from './pairsPage';

/** Each line is gone over so often. */
const TIMES = 4;
/** A line of fewer places, a millimetre apart, is a dot or a tick between two crossings. */
const FEW = 4;

/** What a stroke is told, in a few words. */
export function inWords({ offMm, advice }: Gone) {
  const near = `${offMm.toFixed(1)} mm from its line`;
  if (advice === 'good') return `Last stroke: ${near}, even. Good.`;
  if (advice === 'slower') return `Last stroke: ${near}. Again, slower.`;
  if (advice === 'nearer') return `Last stroke: ${near}. Again, nearer to the line.`;
  if (advice === 'evenly') return `Last stroke: ${near}, but it stopped and went on. Again, evenly.`;
  return 'The last stroke lies on no line. Undo it, and go over a line.';
}

const told = new WeakMap<Samples, { lines: number[][][]; gone: Gone | null }>();
/** Of a stroke that is the same, over lines that are the same, once. */
function of(stroke: Samples, lines: number[][][]) {
  const had = told.get(stroke);
  if (had?.lines === lines) return had.gone;
  const gone = goneOver(stroke, lines);
  told.set(stroke, { lines, gone });
  return gone;
}

export function GoneOver({ scan, strokes }: { scan: PageScan; strokes: Samples[] }) {
  const { production } = useOpen();
  const [ready, setReady] = useState(false);
  useEffect(() => void loadEngine().then(() => setReady(true)), []);
  const params = { path: { production: production.id, sha: scan.sha256 }, query: { resolution_dpi: scan.dpi } };
  const read = useQuery({
    queryKey: ['scan-lines', production.id, scan.sha256, scan.dpi],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/scans/{sha}/lines', { params })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const lines = read.data?.lines;
  if (read.isLoading) return <span role="status">reading the lines of the scan…</span>;
  if (!ready || !lines) return null;
  const all = strokes.map((s) => of(s, lines));
  const wanted = lines.flatMap((l, k) => (l.length >= FEW ? [k] : []));
  const done = wanted.filter((k) => all.filter((g) => g?.lines.includes(k)).length >= TIMES).length;
  const last = all.at(-1);
  return (
    <span role="status" aria-label="how the lines are gone over">
      {last && <span className={last.advice === 'good' ? '' : 'again'}>{`${inWords(last)} `}</span>}
      {`${done} of ${wanted.length} lines gone over four times`}
    </span>
  );
}
