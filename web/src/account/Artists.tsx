// The artists in the manifests, and the members they are linked to: a lead says so, a name alone gives no right.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, type Schemas, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

export function Artists({ members }: { members: Schemas['MemberView'][] }) {
  const { production } = useOpen();
  const client = useQueryClient();
  const lead = production.part === 'lead';
  const path = { production: production.id };
  const artists = useQuery({
    queryKey: ['artists', production.id],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/artists', { params: { path } })),
  });
  const link = useMutation({
    mutationFn: (body: Schemas['LinkArtist']) => take(api.PUT('/api/v1/productions/{production}/artists', { params: { path }, body })),
    onSettled: () => client.invalidateQueries(),
  });
  const list = artists.data ?? [];
  if (!list.length) return null;
  const name = (id: string | null | undefined) => members.find((m) => m.id === id)?.name;
  return (
    <>
      <h2 className="mt-3">Artists in the manifests</h2>
      <p className="soft tight mb-1">
        Returned drawings and offered corrections of an artist go to the linked member.{lead ? '' : ' A lead links artists to members.'}
      </p>
      <Problem error={artists.error ?? link.error} />
      <table className="plain-table">
        <tbody>
          {list.map((a) => (
            <tr key={a.artist}>
              <td className="fw-semibold" style={{ width: 220 }}>
                {a.artist}
              </td>
              <td>
                {lead ? (
                  <select
                    aria-label={`member for ${a.artist}`}
                    value={a.member ?? ''}
                    onChange={(e) => link.mutate({ artist: a.artist, member: e.target.value || null })}
                  >
                    <option value="">no member</option>
                    {members
                      .filter((m) => m.part !== 'viewer')
                      .map((m) => (
                        <option key={m.id} value={m.id}>
                          {m.name}
                        </option>
                      ))}
                  </select>
                ) : (
                  (name(a.member) ?? 'no member')
                )}
                {lead && a.fits && (
                  <button
                    type="button"
                    className="btn-word ms-3"
                    disabled={link.isPending}
                    onClick={() => link.mutate({ artist: a.artist, member: a.fits ?? null })}
                  >
                    {a.artist} is {name(a.fits)}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
