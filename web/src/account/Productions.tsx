// What a lead does with whole productions: another name for this one, another production, the archive.
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

export function Productions() {
  const { production, session, refresh } = useOpen();
  const [sure, setSure] = useState(false);
  const path = { production: production.id };
  const rename = useMutation({
    mutationFn: (name: string) => take(api.PUT('/api/v1/productions/{production}/name', { params: { path }, body: { name } })),
    onSuccess: refresh,
  });
  const [copies, setCopies] = useState(true);
  const make = useMutation({
    mutationFn: (name: string) => take(api.POST('/api/v1/productions', { body: { name, guides_of: copies ? production.id : null } })),
    onSuccess: refresh,
  });
  const archive = useMutation({
    mutationFn: () => take(api.PUT('/api/v1/productions/{production}/archived', { params: { path } })),
    onSuccess: refresh,
  });
  const others = session.productions.filter((p) => p.id !== production.id && !p.archived).length;
  return (
    <>
      <section className="mt-3">
        <h2>This production</h2>
        <NameForm label="name of this production" was={production.name} act="Rename production" busy={rename.isPending} onName={rename.mutate} />
        <Problem error={rename.error} />
        <div className="d-flex gap-2 align-items-center flex-wrap mt-2">
          {sure ? (
            <>
              <span className="tight">
                Everybody can still look at {production.name} and download from it. Nothing in it can be changed until a lead restores it.
                {others === 0 && ' It is your only production that is not archived.'}
              </span>
              <Button size="sm" variant="paper" disabled={archive.isPending} onClick={() => archive.mutate()}>
                Archive {production.name}
              </Button>
              <button type="button" className="btn-word" onClick={() => setSure(false)}>
                Cancel
              </button>
            </>
          ) : (
            <button type="button" className="btn-word" onClick={() => setSure(true)}>
              Archive production…
            </button>
          )}
        </div>
        <Problem error={archive.error} />
      </section>
      <section className="mt-3">
        <h2>Another production</h2>
        <label className="d-flex gap-1 tight mb-1">
          <input type="checkbox" checked={copies} onChange={(e) => setCopies(e.target.checked)} /> with copies of the line guides of {production.name}
        </label>
        <NameForm key={make.submittedAt} label="name of the new production" was="" act="Create production" busy={make.isPending} onName={make.mutate} />
        {make.isSuccess && <span className="soft tight">Created. Choose it at the top of the page.</span>}
        <Problem error={make.error} />
      </section>
    </>
  );
}

type NameFormProps = { label: string; was: string; act: string; busy: boolean; onName: (name: string) => void };

function NameForm({ label, was, act, busy, onName }: NameFormProps) {
  const [name, setName] = useState(was);
  return (
    <form
      className="d-flex gap-2 align-items-center"
      onSubmit={(e) => {
        e.preventDefault();
        onName(name.trim());
      }}
    >
      <input
        required
        maxLength={200}
        className="form-control form-control-sm"
        style={{ width: 280 }}
        aria-label={label}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <Button type="submit" size="sm" variant="paper" disabled={busy || name.trim() === was}>
        {act}
      </Button>
    </form>
  );
}
