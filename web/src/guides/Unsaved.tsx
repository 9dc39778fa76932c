// What is changed on a guide and not saved: in words, with a note for its version, and what it would change on the newest delivery.
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';
import { guideChanges } from './guideChanges';

type Guide = Schemas['LineGuide'];
type Props = { kept: Schemas['GuideView']; began: Guide; guide: Guide; note: string; onNote: (text: string) => void };
type Tried = Schemas['GuideTried'];

/** So many changes are told at once. */
const TOLD = 6;
const SUGGESTS: Record<string, string> = { ready: 'passes', return: 'needs fixes', 'not-checked': 'not checked' };
const suggests = (h: Schemas['WouldChange']['was']) => (h ? SUGGESTS[h] : 'not read');

export function Unsaved({ kept, began, guide, note, onNote }: Props) {
  const { production } = useOpen();
  const [tried, setTried] = useState<(Tried & { guide: Guide }) | null>(null);
  const [error, setError] = useState<unknown>(null);
  // Another try, or another change, ends the one that runs.
  const run = useRef(0);
  const [busy, setBusy] = useState(false);
  const [on, setOn] = useState<string | null>(null);
  const deliveries = useQuery({
    queryKey: ['deliveries', production.id, 'names'],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/deliveries', { params: { path: { production: production.id } } })),
  });
  const changes = guideChanges(began, guide);
  const tryIt = async () => {
    const mine = ++run.current;
    setBusy(true);
    setError(null);
    let all: Tried = { delivery: null, delivery_name: '', done: 0, of: 1, changed: [] };
    try {
      while (all.done < all.of && mine === run.current) {
        const params = { path: { production: production.id, id: kept.id } };
        const next: Tried = await take(api.POST('/api/v1/productions/{production}/guides/{id}/try', { params, body: { guide, delivery: on, done: all.done } }));
        all = { ...next, changed: [...all.changed, ...next.changed] };
        if (mine === run.current) setTried({ ...all, guide });
      }
    } catch (e) {
      setError(e);
    }
    if (mine === run.current) setBusy(false);
  };
  const stop = () => {
    run.current++;
    setBusy(false);
  };
  const stale = tried && tried.guide !== guide;
  return (
    <section className="card-plain mb-3" aria-label="what is changed">
      <div className="d-flex gap-3 flex-wrap align-items-start">
        <div className="tight" style={{ flex: '1 1 320px' }}>
          {changes.slice(0, TOLD).map((c) => (
            <div key={c.field}>
              {c.field}: <span className="soft">{c.was} →</span> <b>{c.is}</b>
            </div>
          ))}
          {changes.length > TOLD && <div className="soft">and {changes.length - TOLD} more</div>}
        </div>
        <label className="tight" style={{ flex: '1 1 260px' }}>
          Note for this version
          <input
            className="form-control form-control-sm"
            maxLength={1000}
            value={note}
            placeholder="why, if you like"
            onChange={(e) => onNote(e.target.value)}
          />
        </label>
        {busy ? (
          <button type="button" className="btn btn-paper btn-sm" onClick={stop}>
            Stop trying
          </button>
        ) : (
          <div className="d-flex flex-column gap-1">
            <select className="form-select form-select-sm" aria-label="delivery to try it on" value={on ?? ''} onChange={(e) => setOn(e.target.value || null)}>
              <option value="">the newest delivery</option>
              {[...(deliveries.data ?? [])].reverse().map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
            </select>
            <button type="button" className="btn btn-paper btn-sm" title="its drawings are checked with these changes; nothing is saved" onClick={tryIt}>
              Try on this delivery
            </button>
          </div>
        )}
      </div>
      <Problem error={error} />
      {tried && (
        <div className="tight mt-2" role="status" style={stale ? { opacity: 0.6 } : undefined}>
          {tried.delivery === null ? (
            'Nothing was checked against this guide yet.'
          ) : (
            <>
              <b>
                {tried.changed.length === 0
                  ? 'Nothing would change'
                  : `${tried.changed.length} ${tried.changed.length === 1 ? 'drawing' : 'drawings'} would change`}
              </b>{' '}
              of {tried.done < tried.of ? `the first ${tried.done} of ${tried.of}` : tried.of} in {tried.delivery_name}
              {stale ? '; the guide was changed since' : ''}
              {busy && <progress className="ms-2" value={tried.done} max={tried.of} aria-label="drawings tried" />}
              <div style={{ maxHeight: 180, overflowY: 'auto' }}>
                {tried.changed.map((c) => (
                  <div key={c.id} className="d-flex gap-2" style={{ borderTop: '1px solid var(--hairline)' }}>
                    <Link to={`/checks/of/${c.id}`} style={{ flex: '0 0 150px' }} className="text-break">
                      {c.file}
                    </Link>
                    <span style={{ flex: '0 0 170px' }}>{c.was === c.is ? suggests(c.is) : `${suggests(c.was)} → ${suggests(c.is)}`}</span>
                    <span className="soft">{c.why.join('; ')}</span>
                  </div>
                ))}
              </div>
            </>
          )}
        </div>
      )}
    </section>
  );
}
