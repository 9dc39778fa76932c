// A password link that was opened: a member chooses a new one.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Button } from 'react-bootstrap';
import { useNavigate, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { NewPasswordField } from '../parts/NewPasswordField';
import { Loading, Problem } from '../parts/states';

export function Reset() {
  const { secret = '' } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [password, setPassword] = useState('');
  const [error, setError] = useState<unknown>(null);
  const params = { path: { secret } };
  const seen = useQuery({ queryKey: ['reset', secret], queryFn: () => take(api.GET('/api/v1/resets/{secret}', { params })), retry: false });
  if (seen.isLoading) return <Loading what="the link" />;
  if (!seen.data)
    return (
      <main className="page">
        <Problem error={seen.error} />
      </main>
    );
  const choose = async (e: FormEvent) => {
    e.preventDefault();
    setError(null);
    try {
      const next = await take<Schemas['Session']>(api.POST('/api/v1/resets/{secret}', { params, body: { password } }));
      client.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' });
      client.setQueryData(['session'], next);
      navigate('/');
    } catch (e) {
      setError(e);
    }
  };
  return (
    <main className="page" style={{ maxWidth: 560, paddingTop: 60 }}>
      <h1>New password for {seen.data.name}</h1>
      <p>It ends every earlier sign-in.</p>
      <Problem error={error} />
      <form onSubmit={choose}>
        <NewPasswordField id="password" className="mb-3" label="New password" value={password} onChange={setPassword} />
        <Button type="submit">Save password and sign in</Button>
      </form>
    </main>
  );
}
