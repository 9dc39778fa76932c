// The log of the production: who changed what, when, from which version; what is a picture, as one.
import { useInfiniteQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { TrueLine } from '../lanes/PenLineView';
import { ProofStroke } from '../lanes/ProofStroke';
import { usePens, useRack } from '../parts/lists';
import { smallUrl } from '../parts/picture';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';

const moment = (iso: string) =>
  new Date(iso).toLocaleString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit', second: '2-digit' });

export function Log() {
  const { production } = useOpen();
  const path = { production: production.id };
  const log = useInfiniteQuery({
    queryKey: ['log', production.id],
    initialPageParam: 0,
    queryFn: ({ pageParam }) => take(api.GET('/api/v1/productions/{production}/log', { params: { path, query: pageParam ? { before: pageParam } : {} } })),
    getNextPageParam: (last) => (last.length === 100 ? last[last.length - 1]?.id : undefined),
  });
  if (log.isLoading) return <Loading what="the log" />;
  const rows = log.data?.pages.flat() ?? [];
  return (
    <div className="page">
      <Head title="What was changed" says={`${production.name}: who, when, what, from which version`} />
      <Problem error={log.error} />
      {rows.length === 0 ? (
        <Empty title="Nothing yet">Every change to the production is written here.</Empty>
      ) : (
        <table className="plain-table">
          <thead>
            <tr>
              <th>when</th>
              <th>who</th>
              <th>what</th>
              <th>of what</th>
              <th>versions</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id}>
                <td className="text-nowrap">{moment(r.at)}</td>
                <td className="text-nowrap">{r.by}</td>
                <td className="text-nowrap">{r.action}</td>
                <td>
                  {r.subject}
                  {r.shows && <Shows of={r.shows} />}
                </td>
                <td className="text-nowrap soft">{r.from_version != null && r.to_version != null ? `${r.from_version} to ${r.to_version}` : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {log.hasNextPage && (
        <button type="button" className="btn btn-sm btn-paper mt-2" disabled={log.isFetchingNextPage} onClick={() => log.fetchNextPage()}>
          Show earlier changes
        </button>
      )}
    </div>
  );
}

/** The drawings, the pen or the brush of a row; what is archived or deleted meanwhile is shown no more. */
function Shows({ of }: { of: Schemas['Shows'] }) {
  if (of.what === 'drawing') return <Drawings of={of} />;
  return of.what === 'pen' ? <PenOf id={of.ids[0]} /> : <BrushOf id={of.ids[0]} />;
}

function Drawings({ of }: { of: Schemas['Shows'] }) {
  const { production } = useOpen();
  return (
    <div className="d-flex gap-2 mt-1">
      {of.pictures.map((sha, i) => (
        <Link key={of.ids[i]} to={`/checks/of/${of.ids[i]}`}>
          <img
            src={smallUrl(`/api/v1/productions/${production.id}`, sha)}
            alt="the drawing"
            loading="lazy"
            style={{ width: 96, height: 54, objectFit: 'contain', background: '#fff', border: '1px solid var(--hairline)' }}
          />
        </Link>
      ))}
    </div>
  );
}

function PenOf({ id }: { id: string | undefined }) {
  const pen = usePens().data?.find((p) => p.id === id);
  if (!pen?.line) return null;
  return (
    <Link to={`/pens/${pen.id}`} aria-label={pen.name} className="d-block">
      <TrueLine line={pen.line} scale={3} />
    </Link>
  );
}

function BrushOf({ id }: { id: string | undefined }) {
  const { production } = useOpen();
  const brush = useRack(production.id).data?.find((b) => b.id === id);
  if (!brush) return null;
  return (
    <Link to={`/brushes/${brush.id}`} aria-label={brush.name} className="d-block">
      <ProofStroke brush={brush.brush} height={34} />
    </Link>
  );
}
