// A region that was drawn on a drawing: named, and left out of this drawing and its takes, or in the guide of its shot or of every drawing.
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { focused } from '../parts/focused';
import { Problem } from '../parts/states';
import { useOpen } from '../session';
import { onPage, type Points } from './region';

type Props = {
  guide: string;
  drawing: string;
  /** On this drawing: it is checked again. */
  onOwn: (made: string, name: string) => void;
  /** How many times as large as the guide's page the drawing is. */
  scale: number;
  shot: string | undefined;
  points: Points;
  onDone: () => void;
};

export function RegionForm({ guide, drawing, scale, shot, points, onOwn, onDone }: Props) {
  const [where, setWhere] = useState('drawing');
  const { production } = useOpen();
  const client = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const save = async (data: FormData) => {
    setBusy(true);
    setError(null);
    try {
      if (where === 'drawing') {
        const region = { name: String(data.get('name') ?? '').trim(), points: onPage(points, scale) };
        const params = { path: { production: production.id, id: drawing } };
        const made = await take(api.POST('/api/v1/productions/{production}/drawings/{id}/regions', { params, body: region }));
        await client.invalidateQueries();
        onOwn(made.id, region.name);
        onDone();
        return;
      }
      // Onto the guide as it stands now, whoever saved it last.
      const guides = await take(api.GET('/api/v1/productions/{production}/guides', { params: { path: { production: production.id } } }));
      const now = guides.find((g) => g.id === guide);
      if (!now) throw new Error('the line guide is no longer there');
      const region: Schemas['LeftOut'] = { name: String(data.get('name') ?? '').trim(), points: onPage(points, scale) };
      if (shot && where === 'shot') region.shot = shot;
      await take(
        api.POST('/api/v1/productions/{production}/guides/{id}/versions', {
          params: { path: { production: production.id, id: guide } },
          body: { guide: { ...now.guide, left_out: [...(now.guide.left_out ?? []), region] }, from_version: now.version },
        }),
      );
      await client.invalidateQueries();
      onDone();
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form
      className="px-3 py-2"
      aria-label="region to leave out"
      style={{ borderTop: '1px solid var(--hairline)' }}
      onSubmit={(e) => {
        e.preventDefault();
        void save(new FormData(e.currentTarget));
      }}
    >
      <input className="form-control form-control-sm" name="name" required ref={focused} aria-label="what lies there" placeholder="slate, lettering, a logo" />
      <div className="d-flex gap-3 mt-1 tight flex-wrap">
        {[['drawing', 'on this drawing and its next takes'], ...(shot ? [['shot', `on shot ${shot}`]] : []), ['every', 'on every drawing']].map(
          ([value = '', says]) => (
            <label key={value} className="d-flex gap-1">
              <input type="radio" name="where" value={value} checked={where === value} onChange={() => setWhere(value)} /> {says}
            </label>
          ),
        )}
      </div>
      <div className="tight soft mt-1">
        Nothing in it is measured or found.{' '}
        {where === 'drawing' ? 'The drawing is checked again at once.' : 'The guide gets a new version; check the delivery again to have it count.'}
      </div>
      <Problem error={error} />
      <div className="d-flex gap-2 mt-1">
        <button type="submit" className="btn btn-paper btn-sm" disabled={busy}>
          Leave region out
        </button>
        <button type="button" className="btn-word" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  );
}
