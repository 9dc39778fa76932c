// Members of the production: who is what, inviting, changing a part, leaving.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { CopyLink } from '../parts/CopyLink';
import { day, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { Artists } from './Artists';
import { MemberAccount } from './MemberAccount';
import { Productions } from './Productions';

type Access = Schemas['MemberAccess'];
const PARTS: [Access, string][] = [
  ['lead', 'sets guides, decides, invites'],
  ['artist', 'pens, tablets, brushes, trial pages, deliveries'],
  ['viewer', 'sees everything, changes nothing'],
];

export function Members() {
  const { production, refresh } = useOpen();
  const client = useQueryClient();
  const path = { production: production.id };
  const lead = production.part === 'lead';
  const seen = useQuery({
    queryKey: ['members', production.id],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/members', { params: { path } })),
  });
  const again = () => {
    client.invalidateQueries({ queryKey: ['members'] });
    refresh();
  };
  const part = useMutation({
    mutationFn: ({ member, to }: { member: Schemas['MemberView']; to: Access }) =>
      take(
        api.PUT('/api/v1/productions/{production}/members/{member}', {
          params: { path: { ...path, member: member.id } },
          body: { part: to, from: member.part },
        }),
      ),
    onSettled: again,
  });
  const withdraw = useMutation({
    mutationFn: (id: string) => take(api.DELETE('/api/v1/productions/{production}/invitations/{id}', { params: { path: { ...path, id } } })),
    onSettled: again,
  });
  if (seen.isLoading) return <Loading what="the members" />;
  const members = seen.data?.members ?? [];
  const invitations = seen.data?.invitations ?? [];
  return (
    <div className="page">
      <Head title={members.length === 1 ? 'You are the only member' : `${members.length} members`} says={production.name} />
      <Problem error={seen.error ?? part.error ?? withdraw.error} />
      <table className="plain-table">
        <thead>
          <tr>
            <th>name</th>
            {lead && <th>e-mail address</th>}
            <th>access</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {members.map((m) => (
            <tr key={m.id}>
              <td className="fw-semibold">
                {m.name} {m.you && <span className="soft">(you)</span>}
                {m.disabled && <span className="soft">(account shut)</span>}
              </td>
              {lead && <td>{m.email}</td>}
              <td>
                {lead && !m.you ? (
                  <select aria-label={`access of ${m.name}`} value={m.part} onChange={(e) => part.mutate({ member: m, to: e.target.value as Access })}>
                    {PARTS.map(([p, says]) => (
                      <option key={p} value={p}>
                        {p}: {says}
                      </option>
                    ))}
                  </select>
                ) : (
                  <span>
                    {m.part} <span className="soft">{PARTS.find((p) => p[0] === m.part)?.[1]}</span>
                  </span>
                )}
              </td>
              <td className="text-end">{(lead || m.you) && <MemberAccount member={m} lead={lead} onDone={again} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft tight mt-1">Who leaves can no longer look at the production; what they did stays, under their name. A production keeps one lead.</p>
      {lead && <InviteOne onDone={again} />}
      <Artists members={members} />
      {invitations.length > 0 && (
        <>
          <h2 className="mt-3">Invited, not joined yet</h2>
          <table className="plain-table">
            <tbody>
              {invitations.map((i) => (
                <tr key={i.id}>
                  <td>{i.email}</td>
                  <td>{i.part}</td>
                  <td className="soft">
                    by {i.by}, {day(i.at)}; {i.expired ? 'the link has expired: invite again' : `the link works until ${day(i.expires_at)}`}
                  </td>
                  <td className="text-end">
                    <button type="button" className="btn-word" onClick={() => withdraw.mutate(i.id)}>
                      Withdraw invitation
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {seen.data && <Space space={seen.data.space} />}
      {lead && <Productions key={production.id} />}
    </div>
  );
}

const size = (bytes: number) => (bytes < 1e9 ? `${(bytes / 2 ** 20).toFixed(bytes < 1e7 ? 1 : 0)} MiB` : `${(bytes / 2 ** 30).toFixed(1)} GiB`);

/** What the production's pictures take of the disk. */
function Space({ space }: { space: Schemas['Space'] }) {
  const share = space.used_bytes / space.quota_bytes;
  return (
    <section className="mt-3">
      <h2>Space for pictures</h2>
      <div className="tight">
        {space.pictures} pictures take {size(space.used_bytes)} of {size(space.quota_bytes)}
        {share > 0.9 && <b style={{ color: 'var(--warn)' }}> · nearly full: remove archived deliveries, or ask whoever keeps the server for more</b>}
      </div>
      <meter min={0} max={1} high={0.9} value={share} aria-label="space used" style={{ width: 280 }} />
    </section>
  );
}

function InviteOne({ onDone }: { onDone: () => void }) {
  const { production } = useOpen();
  const [email, setEmail] = useState('');
  const [part, setPart] = useState<Access>('artist');
  const invite = useMutation({
    mutationFn: () =>
      take(api.POST('/api/v1/productions/{production}/invitations', { params: { path: { production: production.id } }, body: { email, part } })),
    onSuccess: onDone,
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    invite.mutate();
  };
  return (
    <form className="card-plain mt-3" onSubmit={submit}>
      <h2>Invite a member</h2>
      <div className="d-flex flex-wrap gap-3 align-items-end">
        <label className="d-flex flex-column">
          <span className="soft">e-mail address</span>
          <input
            type="email"
            required
            className="form-control form-control-sm"
            style={{ width: 280 }}
            value={email}
            onChange={(e) => setEmail(e.target.value)}
          />
        </label>
        <label className="d-flex flex-column">
          <span className="soft">access</span>
          <select className="form-select form-select-sm" value={part} onChange={(e) => setPart(e.target.value as Access)}>
            {PARTS.map(([p]) => (
              <option key={p}>{p}</option>
            ))}
          </select>
        </label>
        <Button type="submit" size="sm" disabled={invite.isPending}>
          Make invitation link
        </Button>
      </div>
      <Problem error={invite.error} />
      {invite.data && (
        <div className="mt-2">
          <CopyLink
            label="the invitation’s link"
            link={invite.data.link}
            says="Send this link to them. It is shown only once, works for two weeks, and lets in one person:"
          />
        </div>
      )}
    </form>
  );
}
