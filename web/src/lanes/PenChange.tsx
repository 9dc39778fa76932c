// What changed from one pen, or one scan of it, to another: a real line of each, one above the other, then figure by figure.
import { useQueries, useQuery } from '@tanstack/react-query';
import { api, type Schemas, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';
import { LineShape } from './PenLineView';

type Line = Schemas['PenLine'];
/** So much of a line is shown at most, mm. */
const MOST_MM = 80;

const mean = (v: number[]) => v.reduce((sum, x) => sum + x, 0) / (v.length || 1);

/** The middle one by its width of a pen's lines of normal effort, or of all where no effort was said. */
function typical(lines: Line[]): Line | undefined {
  const sorted = lines.filter((l) => (l.effort ?? 0.5) === 0.5).sort((a, b) => mean(a.width_mm) - mean(b.width_mm));
  return sorted[(sorted.length - 1) >> 1];
}

/** A real line of each pen over the same mm, at one scale. */
function TwoLines({ pens, names }: { pens: [string, string]; names: [string, string] }) {
  const { production } = useOpen();
  const both = useQueries({
    queries: pens.map((id) => ({
      queryKey: ['pen', id],
      queryFn: () => take(api.GET('/api/v1/productions/{production}/pens/{id}', { params: { path: { production: production.id, id } } })),
    })),
  });
  const lines = both.map((q) => typical(q.data?.lines ?? []));
  const [one, other] = lines;
  if (!one || !other) return null;
  const length = Math.min(MOST_MM, ...[one, other].map((l) => l.width_mm.length * l.step_mm));
  const half = 0.6 * Math.max(0.3, ...one.width_mm, ...other.width_mm);
  return (
    <div className="lanes mb-2">
      {[one, other].map((l, i) => (
        <div key={pens[i]} className="lane" style={{ gridTemplateColumns: '230px 1fr' }}>
          <div className="gutter tight">
            <b>{names[i]}</b>
            <div className="soft">normal effort · {mean(l.width_mm).toFixed(3)} mm</div>
          </div>
          <LineShape line={l} length={length} half={half} label={`a line of ${names[i]} over ${length.toFixed(0)} mm`} />
        </div>
      ))}
    </div>
  );
}

export function PenChange({ from, to, names }: { from: string; to: string; names: [string, string] }) {
  const { production } = useOpen();
  const params = { path: { production: production.id, id: from, other: to } };
  const changes = useQuery({
    queryKey: ['against', from, to],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/pens/{id}/against/{other}', { params })),
  });
  const said = (c: { changed?: boolean | null; interval?: number[] | null; unit: string }) => {
    if (!c.interval) return 'one figure each: no interval';
    const [lo = 0, hi = 0] = c.interval;
    const sign = (v: number) => `${v >= 0 ? '+' : '−'}${Math.abs(v).toFixed(3)}`;
    return `${c.changed ? 'changed' : 'no sure change'}, ${sign(lo)} to ${sign(hi)} ${c.unit}`;
  };
  return (
    <>
      <Problem error={changes.error} />
      <TwoLines pens={[from, to]} names={names} />
      {changes.data?.length === 0 && <div className="notice">The two cards show no part in common.</div>}
      {!!changes.data?.length && (
        <table className="table table-sm" style={{ background: 'var(--paper)' }}>
          <thead>
            <tr>
              <th>figure</th>
              <th className="text-end">{names[0]}</th>
              <th className="text-end">{names[1]}</th>
              <th>change, 95 %</th>
            </tr>
          </thead>
          <tbody>
            {changes.data.map((c) => (
              <tr key={c.figure}>
                <td>{c.figure}</td>
                <td className="text-end">
                  {c.before.toFixed(3)} {c.unit}
                </td>
                <td className="text-end">
                  {c.after.toFixed(3)} {c.unit}
                </td>
                <td style={{ fontWeight: c.changed ? 600 : 400 }}>{said(c)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
