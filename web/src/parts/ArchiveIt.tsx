// Archiving a thing on its own page, with the way back at once.
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { useMayChange, useOpen } from '../session';
import { Problem } from './states';

type Props = { kind: Schemas['Kind']; id: string; name: string };

export function ArchiveIt({ kind, id, name }: Props) {
  const { production } = useOpen();
  const may = useMayChange();
  const client = useQueryClient();
  const params = { path: { production: production.id, kind, id } };
  const put = useMutation({
    mutationFn: (away: boolean) =>
      take(
        away
          ? api.PUT('/api/v1/productions/{production}/archive/{kind}/{id}', { params })
          : api.DELETE('/api/v1/productions/{production}/archive/{kind}/{id}', { params }),
      ),
    // What is shown on this page stays; lists are fetched anew.
    onSuccess: () => client.invalidateQueries({ predicate: (q) => !q.queryKey.includes(id) }),
  });
  if (!may || (production.part !== 'lead' && (kind === 'guides' || kind === 'deliveries'))) return null;
  const away = put.isSuccess && put.variables;
  return (
    <span className="tight">
      {away ? (
        <span role="status">
          {name} is archived.{' '}
          <button type="button" className="btn-word" onClick={() => put.mutate(false)}>
            Restore
          </button>{' '}
          <Link to="/archive">To the archive</Link>
        </span>
      ) : (
        <button type="button" className="btn-word" disabled={put.isPending} onClick={() => put.mutate(true)}>
          Archive
        </button>
      )}
      <Problem error={put.error} />
    </span>
  );
}
