// What changed from one pen, or one scan of it, to another.
import { useQuery } from '@tanstack/react-query';
import { api, take } from '../api/client';
import { useOpen } from '../session';
import { Problem } from './states';

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
