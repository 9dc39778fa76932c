// The artists in the manifests, and the members they are linked to: a lead says so, a name alone gives no right.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
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
  if (!list.length && !lead) return null;
  // Of two members of one name each is told by their address too.
  const label = (m: Schemas['MemberView']) => (m.email && members.some((o) => o.id !== m.id && o.name === m.name) ? `${m.name} (${m.email})` : m.name);
  const name = (id: string | null | undefined) => members.filter((m) => m.id === id).map(label)[0];
  const drawing = members.filter((m) => m.part !== 'viewer');
  return (
    <>
      <h2 className="mt-3">Artists in the manifests</h2>
      <p className="soft tight mb-1">
        Returned drawings and offered corrections of an artist go to the linked member.{' '}
        {lead ? 'Where two artists have one name, give each a handle of their own and use it in manifests and file names.' : 'A lead links artists to members.'}
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
                    <Choices members={drawing} label={label} />
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
      {lead && <Handle members={drawing} label={label} busy={link.isPending} taken={list.map((a) => a.artist.toLowerCase())} onLink={link.mutateAsync} />}
    </>
  );
}

type MembersProps = { members: Schemas['MemberView'][]; label: (m: Schemas['MemberView']) => string };

function Choices({ members, label }: MembersProps) {
  return members.map((m) => (
    <option key={m.id} value={m.id}>
      {label(m)}
    </option>
  ));
}

/** A handle of a member, before any manifest has it. */
function Handle({
  members,
  label,
  busy,
  taken,
  onLink,
}: MembersProps & { busy: boolean; taken: string[]; onLink: (body: Schemas['LinkArtist']) => Promise<unknown> }) {
  const [handle, setHandle] = useState('');
  const [member, setMember] = useState('');
  const there = taken.includes(handle.trim().toLowerCase());
  return (
    <form
      className="d-flex gap-2 align-items-center flex-wrap mt-2"
      onSubmit={(e) => {
        e.preventDefault();
        onLink({ artist: handle.trim(), member }).then(
          () => setHandle(''),
          () => {},
        );
      }}
    >
      <input
        required
        maxLength={200}
        className="form-control form-control-sm"
        style={{ width: 220 }}
        placeholder="name or handle in manifests"
        aria-label="name or handle in manifests"
        value={handle}
        onChange={(e) => setHandle(e.target.value)}
      />
      <span>is</span>
      <select required aria-label="member of this handle" value={member} onChange={(e) => setMember(e.target.value)}>
        <option value="">choose a member</option>
        <Choices members={members} label={label} />
      </select>
      <button type="submit" className="btn btn-sm btn-paper" disabled={busy || there || !handle.trim() || !member}>
        Link handle
      </button>
      {there && <span className="soft tight">It is in the list above.</span>}
    </form>
  );
}
