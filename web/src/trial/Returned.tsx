// What a returned drawing came back with, on the trial page where it is inked again: its notes, pins and must-fix findings.
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { HandIn } from '../parts/HandIn';
import { chosen, mustFix } from '../parts/mustFix';
import { useMayChange, useOpen } from '../session';

const STOP = '#b3243b';

function useReturned(id: string | null | undefined) {
  const { production } = useOpen();
  return useQuery({
    queryKey: ['drawing', id],
    enabled: !!id,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params: { path: { production: production.id, id: id ?? '' } } })),
  });
}

const returned = (d: Schemas['DrawingView']) => d.decisions.findLast((x) => x.state === 'return');
const toFix = (d: Schemas['DrawingView']) => (d.check?.findings ?? []).filter(mustFix(chosen(d)));

/** Drawn notes, pins and must-fix findings over the page; none where it is no returned drawing. */
export function useReturnedMarks(id: string | null | undefined) {
  const { data } = useReturned(id);
  return useMemo(() => {
    if (!data?.check) return null;
    const { width_px, height_px } = data.check;
    const k = width_px / 900;
    return (c: CanvasRenderingContext2D, [w, h]: [number, number]) => {
      c.save();
      c.scale(w / width_px, h / height_px);
      [c.strokeStyle, c.lineWidth, c.globalAlpha] = [STOP, 3 * k, 0.7];
      for (const s of returned(data)?.strokes ?? []) {
        c.beginPath();
        for (const [x = 0, y = 0] of s) c.lineTo(x, y);
        c.stroke();
      }
      [c.lineWidth, c.globalAlpha] = [2 * k, 1];
      c.setLineDash([5 * k, 3 * k]);
      for (const f of toFix(data)) {
        c.beginPath();
        c.arc(f.x, f.y, 12 * k, 0, 7);
        c.stroke();
      }
      c.setLineDash([]);
      c.font = `600 ${12 * k}px sans-serif`;
      c.textAlign = 'center';
      data.pins.forEach((p, i) => {
        c.fillStyle = STOP;
        c.fillRect(p.x - 9 * k, p.y - 9 * k, 18 * k, 18 * k);
        c.fillStyle = '#fff';
        c.fillText(String.fromCharCode(97 + (i % 26)), p.x, p.y + 4.5 * k);
      });
      c.restore();
    };
  }, [data]);
}

/** The same in words, and the page handed in as the next take. */
export function ReturnedNotes({ id, page }: { id: string; page: string }) {
  const { production } = useOpen();
  const may = useMayChange();
  const { data } = useReturned(id);
  if (!data) return null;
  const make = async () => {
    // As the guide wants it: smooth, or hard for flood painting.
    const kind = data.finish === 'hard' ? 'hard.png' : 'png';
    const response = await fetch(`/api/v1/productions/${production.id}/trials/${page}/out/${kind}`);
    if (!response.ok) throw new Error('the page could not be made into a picture; try again');
    return new File([await response.blob()], data.file.replace(/\.[^.]*$/, '.png'), { type: 'image/png' });
  };
  const note = returned(data);
  return (
    <div className="card-plain mb-2">
      <h2>Returned</h2>
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
      {toFix(data)
        .slice(0, 5)
        .map((f, i) => (
          <div key={i} className="soft">
            {f.message}
          </div>
        ))}
      <Link to={`/checks/${data.delivery}?drawing=${id}`}>See the drawing in the check</Link>
      {data.later ? (
        <div className="soft">Its next take is here.</div>
      ) : (
        may && (
          <div className="mt-1">
            <HandIn drawing={data} make={make} />
          </div>
        )
      )}
    </div>
  );
}
