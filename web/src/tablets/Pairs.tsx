// Pressure and ink of the same strokes: one's own lines gone over, or paper over the tablet; what raw pressure gives what width.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import type { Samples } from '../engine/engine';
import { useLasting } from '../parts/lasting';
import { usePens } from '../parts/lists';
import { Head, Loading, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useMayChange, useOpen } from '../session';
import { PairsResult } from './PairsResult';
import { PairsScan } from './PairsScan';
import { PairsSurface } from './PairsSurface';
import type { PageScan, Way } from './pairsPage';

type Page = { scan: PageScan | null; strokes: Samples[]; inkml: string | null };
const NOTHING: Page = { scan: null, strokes: [], inkml: null };

const SAYS: Record<Way, string> = {
  over: 'Your own scanned lines lie under the stylus. Ink each of them again, four times, at the rhythm in which you would draw it, or to the beats.',
  paper: 'Tape a sheet over the tablet and draw on it with an inking refill in the stylus. Then scan the sheet and drop the scan here.',
};

export function Pairs() {
  const { id = '' } = useParams();
  const [query] = useSearchParams();
  const { production } = useOpen();
  const may = useMayChange();
  const client = useQueryClient();
  const navigate = useNavigate();
  const params = { path: { production: production.id, id } };
  const profile = useQuery({ queryKey: ['profile', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/profiles/{id}', { params })) });
  const pens = usePens();
  const [way, setWay] = useState<Way>('over');
  const [pen, setPen] = useState(query.get('pen') ?? '');
  const [page, setPage] = useLasting<Page>(`pairs-${id}-${way}-${pen}`, NOTHING);
  const [found, setFound] = useState<Schemas['PairsView'] | null>(null);
  const [nudge, setNudge] = useState<Schemas['Nudge'] | null>(null);
  const { busy, error, work } = useWork();
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page has other pairs
  useEffect(() => setFound(null), [way, pen, id]);
  if (profile.isLoading) return <Loading what="the profile" />;
  if (!profile.data)
    return (
      <div className="page">
        <Problem error={profile.error} />
      </div>
    );
  const p = profile.data;
  const drawn = page.strokes.length > 0 || !!page.inkml;
  const ask = (moved = nudge) => ({
    nudge: moved,
    scan_sha256: page.scan?.sha256 ?? '',
    resolution_dpi: page.scan?.dpi ?? 0,
    way,
    strokes: page.inkml ? [] : page.strokes.map((s) => s.map((v) => (Number.isFinite(v) ? v : null))),
    inkml: page.inkml,
    pen: pen || null,
  });
  const analyse = (moved: Schemas['Nudge'] | null = null) =>
    work('comparing pressure and ink', async () => {
      setFound(await take(api.POST('/api/v1/productions/{production}/profiles/{id}/pairs', { params, body: ask(moved) })));
      // What is saved is laid as what is seen.
      setNudge(moved);
    });
  const save = () =>
    work('saving the response', async () => {
      const made = await take(api.POST('/api/v1/productions/{production}/profiles/{id}/response', { params, body: ask() }));
      setPage(NOTHING);
      await client.invalidateQueries();
      navigate(`/tablets/${made.id}`);
    });
  return (
    <div className="page">
      <Head
        title={found ? 'What raw pressure gives what width' : 'Pressure and ink of the same strokes'}
        says={`${p.artist} on the ${p.tablet} · nothing is saved until you save it`}
      >
        <Form.Group controlId="pairs-pen">
          <Form.Label className="mb-0 soft">pen whose lines they are</Form.Label>
          <Form.Select size="sm" value={pen} onChange={(e) => setPen(e.target.value)}>
            <option value="">not in the drawer</option>
            {pens.data?.map((x) => (
              <option key={x.id} value={x.id}>
                {x.name}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        {found ? (
          <>
            <Button variant="paper" onClick={() => setFound(null)}>
              Draw more
            </Button>
            <Button disabled={!may || !!busy || !found.response.length} onClick={save}>
              Save response
            </Button>
          </>
        ) : (
          <Button disabled={!page.scan || !drawn || !!busy} onClick={() => analyse()}>
            Analyse
          </Button>
        )}
      </Head>
      <Problem error={error} />
      {busy && (
        <div className="soft tight" role="status">
          {busy}…
        </div>
      )}
      {found ? (
        <PairsResult view={found} scan={page.scan} busy={!!busy} onNudge={analyse} />
      ) : (
        <>
          <div className="d-flex gap-3 align-items-baseline flex-wrap mb-2">
            <div role="group" aria-label="how pressure and ink come together" className="tabs">
              {(['over', 'paper'] as const).map((w) => (
                <button key={w} type="button" aria-pressed={way === w} onClick={() => setWay(w)}>
                  {w === 'over' ? 'Go over your own lines' : 'Paper over the tablet'}
                </button>
              ))}
            </div>
            <span className="soft">{SAYS[way]}</span>
          </div>
          <PairsSurface
            way={way}
            scan={page.scan}
            strokes={page.strokes}
            response={p.profile.response}
            recorded={!!page.inkml}
            onStrokes={(strokes) => setPage((was) => ({ ...was, strokes, inkml: null }))}
          />
          <PairsScan
            way={way}
            pen={pen}
            scan={page.scan}
            onScan={(scan) => setPage((was) => ({ ...was, scan }))}
            onRecording={(inkml) => setPage((was) => ({ ...was, inkml, strokes: [] }))}
            onSimulated={(scan, inkml) => setPage({ scan, inkml, strokes: [] })}
          />
        </>
      )}
    </div>
  );
}
