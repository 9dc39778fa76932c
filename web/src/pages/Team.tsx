// The team, a first table: each artist's mean weight by role against the tolerance.
import { useQuery } from '@tanstack/react-query';
import { api, type Schemas, take } from '../api/client';
import { Empty, Head, Loading, Problem } from '../lanes/states';
import { useOpen } from '../session';

function Dot({ cell }: { cell: Schemas['TeamCell'] | undefined }) {
  const w = cell?.weight;
  if (!cell || !w) return <span className="soft">not drawn</span>;
  const range = Math.max(w.tolerance * 2.4, 0.24);
  const x = (px: number) => 60 + Math.max(-58, Math.min(58, ((px / w.target - 1) / range) * 58));
  const [a = Number.NaN, b = Number.NaN] = cell.interval ?? [];
  const out = a > w.target * (1 + w.tolerance) ? 'heavy' : b < w.target * (1 - w.tolerance) ? 'thin' : '';
  const c = out ? `var(--${out})` : 'var(--ink)';
  return (
    <div>
      <svg viewBox="0 0 120 18" width="120" height="18" aria-hidden>
        <rect x={x(w.target * (1 - w.tolerance))} width={x(w.target * (1 + w.tolerance)) - x(w.target * (1 - w.tolerance))} height="18" fill="var(--band)" />
        {cell.interval && <line x1={x(a)} x2={x(b)} y1="9" y2="9" stroke={c} strokeWidth="2" />}
        <circle cx={x(cell.mean_px)} cy="9" r="4" fill={c} />
      </svg>
      <div className="small">
        <b className={out || ''}>{cell.mean_px.toFixed(2)} px</b>{' '}
        <span className="soft">
          {cell.interval ? `${a.toFixed(2)} to ${b.toFixed(2)}, ` : ''}
          {cell.drawings} drawings
        </span>
      </div>
    </div>
  );
}

export function Team() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const team = useQuery({ queryKey: ['team', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/team', { params })) });
  if (team.isLoading) return <Loading what="the team" />;
  const t = team.data;
  return (
    <div className="page">
      <Head
        title={t?.sentences.length ? (t.sentences.length === 1 ? '1 artist differs' : `${t.sentences.length} artists differ`) : 'Nobody differs'}
        says="mean over each artist’s drawings in all deliveries, with its 95 % interval; the pale band is the tolerance"
      />
      <Problem error={team.error} />
      {t?.sentences.map((s) => (
        <div key={s} className="card-plain mb-1 fw-semibold">
          {s}
        </div>
      ))}
      {!t?.rows.length ? (
        <Empty title="No artist is known yet">Check a delivery whose file names or manifest say who drew what.</Empty>
      ) : (
        <table className="plain-table mt-2">
          <thead>
            <tr>
              <th>Artist</th>
              {t.roles.map((r) => (
                <th key={r}>{r}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {t.rows.map((row) => (
              <tr key={row.artist}>
                <td className="fw-semibold">{row.artist}</td>
                {t.roles.map((r) => (
                  <td key={r}>
                    <Dot cell={row.cells.find((c) => c.role === r)} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
