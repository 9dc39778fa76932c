// A page's title that can be given another name where it stands. A name that is refused stays in its field, with the reason.
import { useState } from 'react';
import { focused } from './focused';

export type RenameProps = { name: string; label: string; may: boolean; onName: (name: string) => unknown };

const reasonOf = (e: unknown) => (e instanceof Error ? e.message : String(e));

export function Rename({ name, label, may, onName, children }: RenameProps & { children: React.ReactNode }) {
  const [typing, setTyping] = useState(false);
  const [refused, setRefused] = useState('');
  const [busy, setBusy] = useState(false);
  const close = () => {
    setTyping(false);
    setRefused('');
  };
  const give = async (to: string) => {
    if (!to || to === name) return close();
    setBusy(true);
    setRefused('');
    try {
      await onName(to);
      close();
    } catch (e) {
      setRefused(reasonOf(e));
    } finally {
      setBusy(false);
    }
  };
  if (!typing)
    return (
      <div className="named">
        <h1>{children}</h1>
        {may && (
          <button type="button" className="btn-word rename" aria-label={`rename ${label}`} onClick={() => setTyping(true)}>
            Rename
          </button>
        )}
      </div>
    );
  return (
    <form
      className="d-flex gap-2 align-items-center flex-wrap"
      onSubmit={(e) => {
        e.preventDefault();
        void give(String(new FormData(e.currentTarget).get('name') ?? '').trim());
      }}
    >
      <input
        className="form-control form-control-sm w-auto"
        name="name"
        defaultValue={name}
        maxLength={120}
        required
        ref={focused}
        aria-label={`name of ${label}`}
        aria-invalid={!!refused}
        onKeyDown={(e) => e.key === 'Escape' && close()}
      />
      <button type="submit" className="btn btn-paper btn-sm" disabled={busy}>
        Save name
      </button>
      <button type="button" className="btn-word" onClick={close}>
        Cancel
      </button>
      {refused && (
        <span className="tight" role="alert" style={{ color: 'var(--warn)' }}>
          {refused}
        </span>
      )}
    </form>
  );
}
