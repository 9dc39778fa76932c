// The log of the production: who changed what, when, from which version.
import { useInfiniteQuery } from '@tanstack/react-query';
import { api, take } from '../api/client';
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
                <td>{r.subject}</td>
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
