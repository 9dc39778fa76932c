// What is archived: taken back at once, or, by a lead, really removed with a count of what goes.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schemas, take, takeAll } from '../api/client';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';

const ONE: Record<Schemas['Kind'], string> = {
  pens: 'pen',
  profiles: 'profile',
  brushes: 'brush',
  guides: 'guide',
  deliveries: 'delivery',
  trials: 'trial page',
};

export function ArchivePage() {
  const { production } = useOpen();
  const may = useMayChange();
  const client = useQueryClient();
  const path = { production: production.id };
  const [going, setGoing] = useState<string | null>(null);
  const seen = useQuery({
    queryKey: ['archive', production.id],
    queryFn: () => takeAll((after) => take(api.GET('/api/v1/productions/{production}/archive', { params: { path, query: { after } } }))),
  });
  const back = useMutation({
    mutationFn: (a: Schemas['Archived']) =>
      take(api.DELETE('/api/v1/productions/{production}/archive/{kind}/{id}', { params: { path: { ...path, kind: a.kind, id: a.id } } })),
    onSettled: () => client.invalidateQueries(),
  });
  if (seen.isLoading) return <Loading what="the archive" />;
  const all = seen.data ?? [];
  const lead = production.part === 'lead';
  const mine = (k: Schemas['Kind']) => may && (lead || (k !== 'guides' && k !== 'deliveries'));
  return (
    <div className="page">
      <Head title={all.length === 0 ? 'Nothing is archived' : `${all.length} archived`} says="put away; nothing is lost" />
      <Problem error={seen.error ?? back.error} />
      {all.length === 0 ? (
        <Empty title="The archive is empty">
          Pens, profiles, brushes, guides, deliveries and trial pages are archived on their own pages, and restored here.
        </Empty>
      ) : (
        <table className="plain-table">
          <tbody>
            {all.map((a) => (
              <tr key={a.id}>
                <td className="soft">{ONE[a.kind]}</td>
                <td className="fw-semibold">{a.name}</td>
                <td className="soft">archived {day(a.at)}</td>
                <td className="text-end">
                  {going === a.id ? (
                    <Removing a={a} onLeave={() => setGoing(null)} />
                  ) : (
                    <span className="d-inline-flex gap-3">
                      {mine(a.kind) && (
                        <button type="button" className="btn-word" onClick={() => back.mutate(a)}>
                          Restore
                        </button>
                      )}
                      {lead && (
                        <button type="button" className="btn-word" onClick={() => setGoing(a.id)}>
                          Delete for good…
                        </button>
                      )}
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Removing({ a, onLeave }: { a: Schemas['Archived']; onLeave: () => void }) {
  const { production } = useOpen();
  const client = useQueryClient();
  const path = { production: production.id, kind: a.kind, id: a.id };
  const seen = useQuery({
    queryKey: ['removal', a.id],
    gcTime: 0,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/removal/{kind}/{id}', { params: { path } })),
  });
  const remove = useMutation({
    mutationFn: () => {
      const url = `/api/v1/productions/${production.id}/removal/${a.kind}/${a.id}?count=${seen.data?.count}`;
      return take(
        fetch(url, { method: 'DELETE' }).then(async (response) => {
          const body = await response.json().catch(() => null);
          return response.ok ? { data: body, response } : { error: body, response };
        }),
      );
    },
    onSuccess: () => client.invalidateQueries(),
  });
  if (!seen.data) return <Problem error={seen.error} />;
  return (
    <div className="text-start d-inline-block">
      <Problem error={remove.error} />
      {seen.data.held_by ? (
        <div className="notice">It cannot be deleted: {seen.data.held_by}.</div>
      ) : (
        <div>
          Deleted with it for good: {seen.data.goes.join(', ')}. <b>Only a backup can bring it back.</b>
        </div>
      )}
      <span className="d-inline-flex gap-3">
        {!seen.data.held_by && (
          <button type="button" className="btn-word stop-word" disabled={remove.isPending} onClick={() => remove.mutate()}>
            Delete all for good {seen.data.count}
          </button>
        )}
        <button type="button" className="btn-word" onClick={onLeave}>
          Cancel
        </button>
      </span>
    </div>
  );
}
