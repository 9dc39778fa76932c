// One's own account: the password, and where one is signed in.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { setSingleKeys, singleKeys } from '../parts/keys';
import { NewPasswordField } from '../parts/NewPasswordField';
import { Head, Problem } from '../parts/states';
import { useOpen } from '../session';

/** What a browser says of itself, in two words. */
export function browserOf(agent: string) {
  const browser = /Edg\//.test(agent)
    ? 'Edge'
    : /Firefox\//.test(agent)
      ? 'Firefox'
      : /Chrom(e|ium)\//.test(agent)
        ? 'Chromium'
        : /Safari\//.test(agent)
          ? 'Safari'
          : '';
  const system = /Windows/.test(agent) ? 'Windows' : /Android/.test(agent) ? 'Android' : /Mac OS/.test(agent) ? 'macOS' : /Linux/.test(agent) ? 'Linux' : '';
  return [browser, system].filter(Boolean).join(' on ') || agent.slice(0, 40);
}

const moment = (iso: string) => new Date(iso).toLocaleString('en-GB', { day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' });

export function Account() {
  const { session } = useOpen();
  const client = useQueryClient();
  const [v, setV] = useState({ current: '', new: '' });
  const [single, setSingle] = useState(singleKeys);
  const seen = useQuery({ queryKey: ['sign-ins'], queryFn: () => take<Schemas['SignInView'][]>(api.GET('/api/v1/account/sign-ins')) });
  const again = () => client.invalidateQueries({ queryKey: ['sign-ins'] });
  const change = useMutation({
    mutationFn: () => take(api.PUT('/api/v1/account/password', { body: v })),
    onSuccess: () => {
      setV({ current: '', new: '' });
      again();
    },
  });
  const end = useMutation({
    mutationFn: (id: string) => take(api.DELETE('/api/v1/account/sign-ins/{id}', { params: { path: { id } } })),
    onSettled: again,
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate();
  };
  return (
    <div className="page">
      <Head title={session.member?.name} says={session.member?.email} />
      <div className="two-up">
        <form className="card-plain" onSubmit={submit}>
          <h2>Change password</h2>
          <Form.Group className="mb-2" controlId="current">
            <Form.Label className="mb-0">Current password</Form.Label>
            <Form.Control
              required
              type="password"
              autoComplete="current-password"
              value={v.current}
              onChange={(e) => setV({ ...v, current: e.target.value })}
            />
          </Form.Group>
          <NewPasswordField id="new" label="New password" className="mb-2" value={v.new} onChange={(x) => setV({ ...v, new: x })} />
          <Problem error={change.error} />
          {change.isSuccess && (
            <p className="mb-2" role="status">
              It is changed; every other sign-in has ended.
            </p>
          )}
          <Button type="submit" size="sm" disabled={change.isPending}>
            Save password
          </Button>
        </form>
        <div className="card-plain">
          <h2>Signed in</h2>
          <Problem error={seen.error ?? end.error} />
          {(seen.data ?? []).map((s) => (
            <div key={s.id} className="d-flex justify-content-between py-1" style={{ borderTop: '1px solid var(--hairline)' }}>
              <span>
                {browserOf(s.agent)} {s.this && <b>this one</b>}
                <span className="soft tight d-block">
                  since {moment(s.at)}, last seen {moment(s.seen_at)}
                </span>
              </span>
              {!s.this && (
                <button type="button" className="btn-word" onClick={() => end.mutate(s.id)}>
                  End sign-in
                </button>
              )}
            </div>
          ))}
        </div>
        <div className="card-plain">
          <h2>Keys</h2>
          <label>
            <input
              type="checkbox"
              checked={single}
              onChange={(e) => {
                setSingleKeys(e.target.checked);
                setSingle(e.target.checked);
              }}
            />{' '}
            single keys act, such as 1, m and u on a delivery
          </label>
          <p className="soft mb-0">Each stands in the tooltip of what it does. In this browser only; arrow keys, Escape and undo always act.</p>
        </div>
      </div>
    </div>
  );
}
