// The rack: each brush drawn as a proof stroke.

import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { Link, useNavigate } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { ProofStroke } from '../lanes/ProofStroke';
import { usePens, useProfiles, useRack } from '../parts/lists';
import { useMyTablet } from '../parts/myTablet';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useMayChange, useOpen } from '../session';
import { LibraryIn } from './LibraryIn';
import { PenRoll } from './PenRoll';

export function Brushes() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const may = useMayChange();
  const navigate = useNavigate();
  const client = useQueryClient();
  const pens = usePens();
  const profiles = useProfiles();
  // Through one's own tablet, until another is chosen.
  const mine = useMyTablet().profile?.id ?? '';
  const [typed, setV] = useState<{ name: string; pen: string; profile: string | null }>({ name: '', pen: '', profile: null });
  const v = { ...typed, profile: typed.profile ?? (typed.pen ? mine : '') };
  const [error, setError] = useState<unknown>(null);
  // Pressed twice it makes one.
  const making = useWork();
  const [find, setFind] = useState('');
  const [order, setOrder] = useState<'made' | 'used' | 'name'>('made');
  const brushes = useRack(production.id);
  if (brushes.isLoading) return <Loading what="the rack" />;
  const list = brushes.data ?? [];
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = list
    .filter((b) => words.every((w) => [b.name, b.pen, b.profile, ...b.tags, ...b.used_in].some((t) => t?.toLowerCase().includes(w))))
    .sort((a, b) => (order === 'name' ? a.name.localeCompare(b.name) : order === 'used' ? (b.used_at ?? '').localeCompare(a.used_at ?? '') : 0));
  const tag = async (b: Schemas['BrushSummary'], text: string) => {
    try {
      await take(
        api.PUT('/api/v1/productions/{production}/brushes/{id}/tags', {
          params: { path: { production: production.id, id: b.id } },
          body: { tags: text.split(','), from_version: b.tags_version },
        }),
      );
      setError(null);
    } catch (e) {
      setError(e);
    }
    // Also where somebody tagged it meanwhile: theirs is shown, to be added to.
    await client.invalidateQueries({ queryKey: ['brushes'] });
  };
  const make = () =>
    making.work('making the brush', async () => {
      const name = v.name || pens.data?.find((p) => p.id === v.pen)?.name || 'plain brush';
      const made = await take(
        api.POST('/api/v1/productions/{production}/brushes', { params, body: { name, pen_id: v.pen || null, profile_id: v.profile || null } }),
      );
      await client.invalidateQueries({ queryKey: ['brushes'] });
      navigate(`/brushes/${made.id}`);
    });
  return (
    <div className="page">
      <Head
        title={list.length === 1 ? '1 brush on the rack' : `${list.length} brushes on the rack`}
        says="each drawn as the same proof stroke: a swell that runs out"
      />
      <Problem error={making.error ?? error ?? brushes.error} />
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
          <Button disabled={!!making.busy} onClick={make}>
            Make brush
          </Button>
        </div>
      )}
      {list.length === 0 ? (
        <Empty title="The rack is empty">Choose a pen and a tablet profile above; the weight curve is fitted at once.</Empty>
      ) : (
        <>
          <div className="d-flex gap-3 align-items-center mb-2 flex-wrap">
            <Form.Control
              size="sm"
              type="search"
              style={{ maxWidth: 260 }}
              aria-label="find brushes"
              placeholder="find by name, pen, tag, role…"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
            <span className="tabs" role="group" aria-label="order of the rack">
              {(
                [
                  ['made', 'as made'],
                  ['used', 'last used first'],
                  ['name', 'by name'],
                ] as const
              ).map(([k, word]) => (
                <button key={k} type="button" aria-pressed={order === k} onClick={() => setOrder(k)}>
                  {word}
                </button>
              ))}
            </span>
            <span className="ms-auto d-flex gap-3 tight">
              <Link
                to={`/brushes/proof?show=${shown
                  .slice(0, 12)
                  .map((b) => `${b.id}@${b.current_version}`)
                  .join(',')}`}
              >
                Proof sheet of these
              </Link>
              <Link to="/brushes/trials">Trial pages</Link>
              <Link to="/brushes/paths">Ink over paths</Link>
              <a href={`/api/v1/productions/${production.id}/library`}>Export library</a>
              {may && <LibraryIn />}
            </span>
          </div>
          {shown.length === 0 && <p className="soft">No brush matches “{find}”.</p>}
          <div className="lanes mb-2">
            {shown.map((b) => (
              <div key={b.id} className="lane" style={{ gridTemplateColumns: '280px 1fr 230px' }}>
                <Link to={`/brushes/${b.id}`} className="rack-link text-decoration-none">
                  <div className="rack-name">
                    <b className="d-block">{b.name}</b>
                    <span className="soft small">
                      {[b.pen && `matched to ${b.pen}`, b.profile && `through ${b.profile}`].filter(Boolean).join(', ') || 'no pen'}
                    </span>
                  </div>
                  <div className="body px-3 d-flex align-items-center" style={{ minHeight: 60 }}>
                    <ProofStroke brush={b.brush} height={56} />
                  </div>
                </Link>
                <div className="tight px-3 py-1">
                  version {b.current_version}
                  {b.used_at && <span className="soft">, used {day(b.used_at)}</span>}
                  {b.unsaved && <div style={{ color: 'var(--warn)' }}>has unsaved changes</div>}
                  {b.used_in.length > 0 && <div className="soft">inks {b.used_in.join(', ')}</div>}
                  <input
                    key={b.tags.join()}
                    className="figure w-100 text-start"
                    aria-label={`tags of ${b.name}`}
                    placeholder={may ? 'tags, separated by commas' : 'no tags'}
                    disabled={!may}
                    defaultValue={b.tags.join(', ')}
                    onBlur={(e) => e.target.value !== b.tags.join(', ') && tag(b, e.target.value)}
                    onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
                  />
                </div>
              </div>
            ))}
          </div>
          <PenRoll rack={list} />
        </>
      )}
    </div>
  );
}
