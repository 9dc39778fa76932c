// What a returned drawing came back with, on the trial page where it is inked again: its notes, pins and must-mend findings.
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { useOpen } from '../session';

function useReturned(id: string) {
  const { production } = useOpen();
  return useQuery({
    queryKey: ['drawing', id],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params: { path: { production: production.id, id } } })),
  });
}

const returned = (d: Schemas['DrawingView']) => d.decisions.findLast((x) => x.state === 'return');
const toMend = (d: Schemas['DrawingView']) => (d.check?.findings ?? []).filter((f) => f.must_mend && !f.dismissed);

/** Drawn notes, pins and must-mend findings over the page. */
export function ReturnedMarks({ id }: { id: string }) {
  const { data } = useReturned(id);
  if (!data?.check) return null;
  const k = data.check.width_px / 900;
  return (
    <svg
      viewBox={`0 0 ${data.check.width_px} ${data.check.height_px}`}
      style={{ position: 'absolute', width: '100%', height: '100%', pointerEvents: 'none' }}
      aria-hidden
    >
      {returned(data)?.strokes.map((s, i) => (
        <polyline key={i} points={s.map((p) => p.join(',')).join(' ')} fill="none" stroke="var(--stop)" strokeWidth={3 * k} opacity="0.7" />
      ))}
      {toMend(data).map((f, i) => (
        <circle key={i} cx={f.x} cy={f.y} r={12 * k} fill="none" stroke="var(--stop)" strokeWidth={2 * k} strokeDasharray={`${5 * k} ${3 * k}`} />
      ))}
      {data.pins.map((p, i) => (
        <g key={p.id}>
          <rect x={p.x - 9 * k} y={p.y - 9 * k} width={18 * k} height={18 * k} rx={3 * k} fill="var(--stop)" />
          <text x={p.x} y={p.y + 4.5 * k} textAnchor="middle" fontSize={12 * k} fill="#fff" fontWeight="600">
            {String.fromCharCode(97 + (i % 26))}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** The same in words. */
export function ReturnedNotes({ id }: { id: string }) {
  const { data } = useReturned(id);
  if (!data) return null;
  const note = returned(data);
  return (
    <div className="card-plain mb-2">
      <h2>It came back</h2>
      {note && (
        <div>
          {note.by}: “{note.note || 'see what is drawn'}”
        </div>
      )}
      {data.pins.map((p, i) => (
        <div key={p.id}>
          <b>{String.fromCharCode(97 + (i % 26))}</b> {p.text}
        </div>
      ))}
      {toMend(data)
        .slice(0, 5)
        .map((f, i) => (
          <div key={i} className="soft">
            {f.message}
          </div>
        ))}
      <Link to={`/checks/${data.delivery}?drawing=${id}`}>All of it in the check</Link>
    </div>
  );
}
