// Signing in; or, where nobody is a member yet, making the first one.
import { useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useNavigate } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { Problem } from '../parts/states';

function Field({ label, ...rest }: { label: string; value: string; type?: string; autoComplete?: string; onText: (v: string) => void }) {
  const { onText, ...input } = rest;
  return (
    <Form.Group className="mb-2" controlId={label.replace(/\W+/g, '-').toLowerCase()}>
      <Form.Label className="mb-0">{label}</Form.Label>
      <Form.Control required {...input} onChange={(e) => onText(e.target.value)} />
    </Form.Group>
  );
}

export function SignIn({ session }: { session: Schemas['Session'] }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [v, setV] = useState({ setup_code: '', name: '', email: '', password: '', production: '' });
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const set = (k: keyof typeof v) => (text: string) => setV({ ...v, [k]: text });

  const go = async (email: string, password: string) => {
    setBusy(true);
    setError(null);
    try {
      const next = session.first
        ? await take<Schemas['Session']>(api.POST('/api/v1/first-member', { body: { ...v } }))
        : await take<Schemas['Session']>(api.POST('/api/v1/session', { body: { email, password } }));
      client.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' });
      client.setQueryData(['session'], next);
      if (session.first) navigate('/');
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    void go(v.email, v.password);
  };

  return (
    <main className="page" style={{ maxWidth: 980, paddingTop: 70 }}>
      <div className="d-flex gap-5 flex-wrap">
        <div style={{ flex: '1 1 380px' }}>
          <img src="/mark.svg" alt="" width={64} />
          <h1 className="mt-3" style={{ fontSize: '2rem' }}>
            Eddymist
          </h1>
          <p className="mt-2" style={{ fontSize: '1.05rem' }}>
            Make a brush that draws like a pen you hold in your hand, on the tablet you own. And see whether a whole team’s lines weigh the same.
          </p>
          <svg viewBox="0 0 420 60" width="100%" aria-hidden>
            <path d="M4 42C90 6 150 4 214 24C280 46 340 40 416 10C340 52 276 62 208 40C150 20 92 18 4 42Z" fill="#16202b" />
          </svg>
        </div>
        <div className="card-plain" style={{ flex: '0 1 380px', padding: 22 }}>
          <h2 className="mb-3">{session.first ? 'Create the first account' : 'Sign in'}</h2>
          {session.first && (
            <p className="soft small">
              No account exists yet. The first member leads the first production and adds the others. The setup code stands where Eddymist was started, below
              its address.
            </p>
          )}
          <Form onSubmit={submit} noValidate={false}>
            {session.first && <Field label="Setup code" value={v.setup_code} onText={set('setup_code')} autoComplete="off" />}
            {session.first && <Field label="Your name" value={v.name} onText={set('name')} autoComplete="name" />}
            <Field label="E-mail address" value={v.email} onText={set('email')} type="email" autoComplete="username" />
            <Field
              label="Password"
              value={v.password}
              onText={set('password')}
              type="password"
              autoComplete={session.first ? 'new-password' : 'current-password'}
            />
            {session.first && <Field label="Name of the production" value={v.production} onText={set('production')} />}
            <Problem error={error} />
            <Button type="submit" className="mt-2" disabled={busy}>
              {session.first ? 'Create account' : 'Sign in'}
            </Button>
          </Form>
          {session.demo_sign_ins.length > 0 && (
            <div className="mt-4">
              <div className="soft small">The demo production is loaded. Sign in as</div>
              {session.demo_sign_ins.map((d) => (
                <div key={d.email} className="figure-row">
                  <span>
                    <b style={{ color: 'var(--ink)' }}>{d.name}</b>, {d.part}
                    <br />
                    {d.email} · {d.password}
                  </span>
                  <button type="button" className="btn-word" disabled={busy} onClick={() => void go(d.email, d.password)}>
                    Sign in
                  </button>
                </div>
              ))}
            </div>
          )}
        </div>
      </div>
    </main>
  );
}
