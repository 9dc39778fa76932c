// Files of a delivery that could not be read: one line, which opens.
import type { Schemas } from '../api/client';

export function FailedFiles({ of }: { of: Schemas['DrawingSummary'][] }) {
  if (!of.length) return null;
  return (
    <details className="stop tight my-1 py-1" open={of.length === 1}>
      <summary>{of.length === 1 ? '1 file could not be read' : `${of.length} files could not be read`}</summary>
      {of.map((f) => (
        <div key={f.id}>
          {f.file}: {f.message}
        </div>
      ))}
    </details>
  );
}
