// Drawings that were returned to whom the desk is: each as a picture with its note, and where its next take is handed in.
import { Link } from 'react-router';
import type { Schemas } from '../api/client';
import { HandIn } from '../parts/HandIn';
import { smallUrl } from '../parts/picture';
import { useOpen } from '../session';

/** So many are shown; the rest is in the delivery. */
const SHOWN = 12;

export function ReturnedDrawings({ of }: { of: Schemas['Returned'][] }) {
  const { production } = useOpen();
  return (
    <div className="mt-2" style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(210px, 1fr))', gap: 10 }}>
      {of.slice(0, SHOWN).map((d) => (
        <HandIn key={d.id} drawing={d}>
          <Link to={`/checks/${d.delivery}?drawing=${d.id}`} className="text-decoration-none">
            <img
              src={smallUrl(`/api/v1/productions/${production.id}`, d.sha256)}
              alt={d.file}
              loading="lazy"
              style={{ width: '100%', height: 118, objectFit: 'contain', background: '#fff' }}
            />
            <div className="tight fw-semibold text-break">{d.file}</div>
          </Link>
          <div className="tight soft mb-1">
            {d.by}: {d.note ? `“${d.note}”` : 'see what must be fixed'}
          </div>
        </HandIn>
      ))}
      {of.length > SHOWN && <div className="tight soft">and {of.length - SHOWN} more in the delivery</div>}
    </div>
  );
}
