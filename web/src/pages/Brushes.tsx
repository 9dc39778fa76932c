// The rack: each brush drawn as a proof stroke.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { Link, useNavigate } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { loadEngine, makeEngine, strokePaths } from '../engine/engine';
import { Empty, Head, Loading, Problem } from '../lanes/states';
import { useMayChange, useOpen } from '../session';
import { usePens } from './Pens';
import { useProfiles } from './Tablets';

/** A stroke that swells and runs out: what a brush is shown by. */
const PROOF = Array.from({ length: 121 }, (_, i) => {
  const u = i / 120;
  return [u * 900, 4 + u * 62, 7 + 4.2 * Math.sin(u * 6.3), Math.sin(Math.PI * u) ** 0.8, Number.NaN, Number.NaN];
}).flat();

function Proof({ brush }: { brush: Schemas['Brush'] }) {
  const [paths, setPaths] = useState<[string, number][] | null>([]);
  useEffect(() => {
    loadEngine().then(() => {
      try {
        const e = makeEngine(brush, null);
        setPaths(strokePaths(e, PROOF));
        e.free();
      } catch (e) {
        setPaths(null);
        console.warn(String(e));
      }
    });
  }, [brush]);
  if (paths === null) return <span className="soft tight">has a part that cannot be inked yet</span>;
  return (
    <svg viewBox="0 0 70 14" height={56} role="img" aria-label={`proof stroke of ${brush.name}`}>
      {paths.map(([d, alpha]) => (
        <path key={d.slice(0, 40)} d={d} fill={brush.colour} fillOpacity={alpha} />
      ))}
    </svg>
  );
}

export function Brushes() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const may = useMayChange();
  const navigate = useNavigate();
  const client = useQueryClient();
  const pens = usePens();
  const profiles = useProfiles();
  const [v, setV] = useState({ name: '', pen: '', profile: '' });
  const [error, setError] = useState<unknown>(null);
  const brushes = useQuery({ queryKey: ['brushes', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes', { params })) });
  if (brushes.isLoading) return <Loading what="the rack" />;
  const list = brushes.data ?? [];
  const make = async () => {
    try {
      const name = v.name || pens.data?.find((p) => p.id === v.pen)?.name || 'plain brush';
      const made = await take(
        api.POST('/api/v1/productions/{production}/brushes', { params, body: { name, pen_id: v.pen || null, profile_id: v.profile || null } }),
      );
      await client.invalidateQueries({ queryKey: ['brushes'] });
      navigate(`/brushes/${made.id}`);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <div className="page">
      <Head
        title={list.length === 1 ? '1 brush on the rack' : `${list.length} brushes on the rack`}
        says="each drawn as the same proof stroke: a swell that runs out"
      />
      <Problem error={error ?? brushes.error} />
      {may && (
        <div className="card-plain mb-2 d-flex gap-2 align-items-end flex-wrap">
          <Form.Group controlId="brush-pen" style={{ flex: '1 1 180px' }}>
            <Form.Label className="mb-0">Match a pen</Form.Label>
            <Form.Select size="sm" value={v.pen} onChange={(e) => setV({ ...v, pen: e.target.value })}>
              <option value="">none: a plain 0.5 mm</option>
              {pens.data?.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Group controlId="brush-profile" style={{ flex: '1 1 220px' }}>
            <Form.Label className="mb-0">Through a tablet profile</Form.Label>
            <Form.Select size="sm" value={v.profile} onChange={(e) => setV({ ...v, profile: e.target.value })}>
              <option value="">none: raw pressure is taken as effort</option>
              {profiles.data?.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.artist} on the {p.tablet}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Group controlId="brush-name" style={{ flex: '1 1 180px' }}>
            <Form.Label className="mb-0">Name</Form.Label>
            <Form.Control size="sm" value={v.name} placeholder="as the pen" onChange={(e) => setV({ ...v, name: e.target.value })} />
          </Form.Group>
          <Button onClick={make}>Make the brush</Button>
        </div>
      )}
      {list.length === 0 ? (
        <Empty title="The rack is empty">Choose a pen and a tablet profile above; the weight curve is fitted at once.</Empty>
      ) : (
        <div className="lanes">
          {list.map((b) => (
            <Link key={b.id} to={`/brushes/${b.id}`} className="lane text-decoration-none" style={{ gridTemplateColumns: '280px 1fr 200px' }}>
              <div className="gutter">
                <b>{b.name}</b>
                <span>{[b.pen && `after ${b.pen}`, b.profile && `through ${b.profile}`].filter(Boolean).join(', ') || 'no pen'}</span>
              </div>
              <div className="body px-3 d-flex align-items-center" style={{ minHeight: 60 }}>
                <Proof brush={b.brush} />
              </div>
              <div className="tight px-3 py-2">
                version {b.current_version}
                {b.unsaved && <div style={{ color: 'var(--warn)' }}>has unsaved changes</div>}
              </div>
            </Link>
          ))}
        </div>
      )}
    </div>
  );
}
