// An invitation that was opened: join with a new account, or as who one is signed in.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useNavigate, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { NewPasswordField } from '../parts/NewPasswordField';
import { Loading, Problem } from '../parts/states';
import { SignIn } from './SignIn';

export function Join({ session }: { session: Schemas['Session'] }) {
  const { secret = '' } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [v, setV] = useState({ name: '', password: '' });
  const [error, setError] = useState<unknown>(null);
  const params = { path: { secret } };
  const seen = useQuery({ queryKey: ['invitation', secret], queryFn: () => take(api.GET('/api/v1/invitations/{secret}', { params })), retry: false });
  if (seen.isLoading) return <Loading what="the invitation" />;
  const i = seen.data;
  if (!i)
    return (
      <main className="page">
        <Problem error={seen.error} />
      </main>
    );
  const own = session.member?.email === i.email;
  const join = async (e?: FormEvent) => {
    e?.preventDefault();
    setError(null);
    try {
      const next = await take<Schemas['Session']>(api.POST('/api/v1/invitations/{secret}', { params, body: v }));
      client.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' });
      client.setQueryData(['session'], next);
      navigate('/');
    } catch (e) {
      setError(e);
    }
  };
  return (
    <main className="page" style={{ maxWidth: 560, paddingTop: 60 }}>
      <h1>{i.by} invites you</h1>
      <p>
        to {i.production}, as {i.part}. The invitation is for {i.email}.
      </p>
      <Problem error={error} />
      {own ? (
        <Button onClick={() => join()}>Join {i.production}</Button>
      ) : session.member ? (
        <p className="notice">You are signed in as {session.member.email}. Sign out first, then open the link again.</p>
      ) : i.has_account ? (
        <>
          <p>This address has an account: sign in, and you can join.</p>
          <SignIn session={session} />
        </>
      ) : (
        <form onSubmit={join}>
          <Form.Group className="mb-2" controlId="name">
            <Form.Label className="mb-0">Your name</Form.Label>
            <Form.Control required autoComplete="name" value={v.name} onChange={(e) => setV({ ...v, name: e.target.value })} />
          </Form.Group>
          <NewPasswordField id="password" label="A password" className="mb-3" value={v.password} onChange={(x) => setV({ ...v, password: x })} />
          <Button type="submit">Join {i.production}</Button>
        </form>
      )}
    </main>
  );
}
