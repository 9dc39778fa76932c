// A page's title that can be given another name where it stands.
import { useState } from 'react';
import { focused } from './focused';

export type RenameProps = { name: string; label: string; may: boolean; onName: (name: string) => unknown };

export function Rename({ name, label, may, onName, children }: RenameProps & { children: React.ReactNode }) {
  const [typing, setTyping] = useState(false);
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
      className="d-flex gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        const to = String(new FormData(e.currentTarget).get('name') ?? '').trim();
        setTyping(false);
        if (to && to !== name) void onName(to);
      }}
    >
      <input
        className="form-control form-control-sm"
        name="name"
        defaultValue={name}
        maxLength={120}
        required
        ref={focused}
        aria-label={`name of ${label}`}
        onKeyDown={(e) => e.key === 'Escape' && setTyping(false)}
      />
      <button type="submit" className="btn btn-paper btn-sm">
        Save name
      </button>
      <button type="button" className="btn-word" onClick={() => setTyping(false)}>
        Cancel
      </button>
    </form>
  );
}
