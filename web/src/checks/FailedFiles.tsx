// Files of a delivery that could not be read: one line, which opens; each can be gone to, and returned from there.
import type { Schemas } from '../api/client';

type Props = { of: Schemas['DrawingSummary'][]; onSelect: (id: string) => void };

export function FailedFiles({ of, onSelect }: Props) {
  if (!of.length) return null;
  return (
    <details className="stop tight my-1 py-1" open={of.length === 1}>
      <summary>{of.length === 1 ? '1 file could not be read' : `${of.length} files could not be read`}</summary>
      {of.map((f) => (
        <div key={f.id}>
          <button type="button" className="btn-word" onClick={() => onSelect(f.id)}>
            {f.file}
          </button>
          : {f.message}
        </div>
      ))}
    </details>
  );
}
