// A drawing whose number several have: asked once of which it is the next take, with a picture of each.
import { api, type Schemas, take } from '../api/client';
import { smallUrl } from '../parts/picture';
import { useOpen } from '../session';

type Props = { drawing: Schemas['DrawingView']; may: boolean; act: (what: () => Promise<unknown>) => Promise<boolean> };

export function TakeOf({ drawing, may, act }: Props) {
  const { production } = useOpen();
  if (!drawing.asks.length) return null;
  const answer = (of: string | null) =>
    void act(() =>
      take(
        api.PUT('/api/v1/productions/{production}/drawings/{id}/take-of', {
          params: { path: { production: production.id, id: drawing.id } },
          body: { of },
        }),
      ),
    );
  return (
    <section className="px-3 py-2 tight" aria-label="whose next take" style={{ borderTop: '1px solid var(--hairline)' }}>
      <b>Which drawing is this the next take of?</b>
      <div className="soft">Several have its number.</div>
      <div className="d-flex gap-2 flex-wrap my-1">
        {drawing.asks.map((c) => (
          <button key={c.id} type="button" className="card-plain p-1 text-start" disabled={!may} onClick={() => answer(c.id)} style={{ width: 136 }}>
            <img src={smallUrl(`/api/v1/productions/${production.id}`, c.sha256)} alt="" style={{ width: '100%', height: 72, objectFit: 'contain' }} />
            <div className="text-break">{c.file}</div>
            <div className="soft">{c.delivery_name}</div>
          </button>
        ))}
      </div>
      {may && (
        <button type="button" className="btn-word" onClick={() => answer(null)}>
          None of them: a drawing of its own
        </button>
      )}
    </section>
  );
}
