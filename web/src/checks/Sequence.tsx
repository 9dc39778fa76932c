// What only the sequence of a delivery's drawings shows, and what is missing in it: the first sentence, the rest on request.
import { useState } from 'react';
import type { Schemas } from '../api/client';

export function Sequence({ delivery: d }: { delivery: Schemas['DeliveryView'] }) {
  const [more, setMore] = useState(false);
  const sequence = d.sequence ?? [];
  if (!sequence.length && !d.missing.length) return null;
  return (
    <div className="mb-2" style={{ lineHeight: 1.3 }}>
      {sequence.slice(0, more ? sequence.length : 1).map((f, i) => (
        <span key={`${f.kind} ${f.role} ${f.artist}`} style={{ display: more || i ? 'block' : 'inline' }}>
          <b>{f.message}</b>{' '}
        </span>
      ))}
      {(sequence.length > 1 || d.missing.length > 0) && (
        <button type="button" className="btn-word" aria-expanded={more} onClick={() => setMore(!more)}>
          {more
            ? 'Show less'
            : [
                sequence.length > 1 ? `${sequence.length - 1} more that only the sequence shows` : '',
                d.missing.length ? `${d.missing.length} ${d.missing.length === 1 ? 'thing' : 'things'} to know first` : '',
              ]
                .filter(Boolean)
                .join(' · ')}
        </button>
      )}
      {more &&
        d.missing.map((m) => (
          <div key={m} className="tight" style={{ color: 'var(--warn)' }}>
            {m}
          </div>
        ))}
    </div>
  );
}
