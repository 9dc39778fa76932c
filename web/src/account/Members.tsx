// Members of the production: who is what, inviting, changing a part, leaving.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { day, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';

type Access = Schemas['MemberAccess'];
const PARTS: [Access, string][] = [
  ['lead', 'sets guides, decides, invites'],
  ['artist', 'pens, tablets, brushes, trial pages, deliveries'],
  ['viewer', 'looks at everything, changes nothing'],
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
  const [sure, setSure] = useState<string | null>(null);
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
  const out = useMutation({
    mutationFn: (member: string) => take(api.DELETE('/api/v1/productions/{production}/members/{member}', { params: { path: { ...path, member } } })),
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
      <Problem error={seen.error ?? part.error ?? out.error ?? withdraw.error} />
      <table className="plain-table">
        <thead>
          <tr>
            <th>name</th>
            {lead && <th>e-mail address</th>}
            <th>part in the work</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {members.map((m) => (
            <tr key={m.id}>
              <td className="fw-semibold">
                {m.name} {m.you && <span className="soft">(you)</span>}
              </td>
              {lead && <td>{m.email}</td>}
              <td>
                {lead && !m.you ? (
                  <select aria-label={`part of ${m.name}`} value={m.part} onChange={(e) => part.mutate({ member: m, to: e.target.value as Access })}>
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
              <td className="text-end">
                {(lead || m.you) &&
                  (sure === m.id ? (
                    <span className="d-inline-flex gap-3">
                      <button type="button" className="btn-word stop-word" onClick={() => out.mutate(m.id)}>
                        {m.you ? 'Yes, leave the production' : `Yes, take ${m.name} out`}
                      </button>
                      <button type="button" className="btn-word" onClick={() => setSure(null)}>
                        No
                      </button>
                    </span>
                  ) : (
                    <button type="button" className="btn-word" onClick={() => setSure(m.id)}>
                      {m.you ? 'Leave' : 'Take out'}
                    </button>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft tight mt-1">Who leaves can no longer look at the production; what they did stays, under their name. A production keeps one lead.</p>
      {lead && <InviteOne onDone={again} />}
      {invitations.length > 0 && (
        <>
          <h2 className="mt-3">Invited, and not here yet</h2>
          <table className="plain-table">
            <tbody>
              {invitations.map((i) => (
                <tr key={i.id}>
                  <td>{i.email}</td>
                  <td>{i.part}</td>
                  <td className="soft">
                    by {i.by}, {day(i.at)}; {i.expired ? 'the link no longer holds: invite again' : `the link holds until ${day(i.expires_at)}`}
                  </td>
                  <td className="text-end">
                    <button type="button" className="btn-word" onClick={() => withdraw.mutate(i.id)}>
                      Withdraw
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </div>
  );
}

function InviteOne({ onDone }: { onDone: () => void }) {
  const { production } = useOpen();
  const [email, setEmail] = useState('');
  const [part, setPart] = useState<Access>('artist');
  const [copied, setCopied] = useState(false);
  const invite = useMutation({
    mutationFn: () =>
      take(api.POST('/api/v1/productions/{production}/invitations', { params: { path: { production: production.id } }, body: { email, part } })),
    onSuccess: () => {
      setCopied(false);
      onDone();
    },
  });
  const link = invite.data ? `${window.location.origin}${invite.data.link}` : null;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    invite.mutate();
  };
  return (
    <form className="card-plain mt-3" onSubmit={submit}>
      <h2>Invite somebody</h2>
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
          <span className="soft">part in the work</span>
          <select className="form-select form-select-sm" value={part} onChange={(e) => setPart(e.target.value as Access)}>
            {PARTS.map(([p]) => (
              <option key={p}>{p}</option>
            ))}
          </select>
        </label>
        <Button type="submit" size="sm" disabled={invite.isPending}>
          Make a link
        </Button>
      </div>
      <Problem error={invite.error} />
      {link && (
        <div className="mt-2">
          <div>Send this link to them. It is shown this once, holds for two weeks, and lets in one person:</div>
          <div className="d-flex gap-2 align-items-center mt-1">
            <input readOnly className="form-control form-control-sm" aria-label="the invitation’s link" value={link} onFocus={(e) => e.target.select()} />
            <button
              type="button"
              className="btn btn-sm btn-paper text-nowrap"
              onClick={() =>
                navigator.clipboard?.writeText(link).then(
                  () => setCopied(true),
                  () => setCopied(false),
                )
              }
            >
              {copied ? 'Copied' : 'Copy it'}
            </button>
          </div>
        </div>
      )}
    </form>
  );
}
