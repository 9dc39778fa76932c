// One tablet profile: its response, the device's faults with the strokes that show them, its versions, re-check and scale.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { Link, useParams } from 'react-router';
import { api, take } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { useProfiles } from '../parts/lists';
import { day, Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { EvidencePictures } from './Evidence';
import { HandScale } from './HandScale';
import { PairsResult } from './PairsResult';
import { Recheck } from './Recheck';
import { ProfileFigures, Response } from './Response';
import { SecondEstimate } from './SecondEstimate';

/** How long ago, in the words that a person uses. */
function age(iso: string) {
  const days = Math.floor((Date.now() - new Date(iso).getTime()) / 86_400_000);
  if (days < 1) return 'today';
  return days === 1 ? 'yesterday' : days < 60 ? `${days} days ago` : `${Math.round(days / 30)} months ago: a re-check is due`;
}

export function Profile() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const may = useMayChange();
  const params = { path: { production: production.id, id } };
  const profile = useQuery({ queryKey: ['profile', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/profiles/{id}', { params })) });
  const all = useProfiles();
  const [open, setOpen] = useState<'re-check' | 'scale' | null>(null);
  const [before, setBefore] = useState('');
  const client = useQueryClient();
  const by = profile.data?.profile.response_from;
  const saved = useQuery({
    queryKey: ['profile-pairs', id],
    enabled: !!by,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/profiles/{id}/pairs', { params })),
  });
  if (profile.isLoading) return <Loading what="the profile" />;
  if (!profile.data)
    return (
      <div className="page">
        <Problem error={profile.error} />
      </div>
    );
  const p = profile.data;
  const others = (all.data ?? []).filter((o) => o.id !== p.id);
  const own = others.filter((o) => o.artist === p.artist && o.tablet === p.tablet);
  const rename = async (name: string) => {
    await take(api.PUT('/api/v1/productions/{production}/profiles/{id}/tablet', { params, body: { name } }));
    await client.invalidateQueries();
  };
  const earlier = others.find((o) => o.id === before);
  return (
    <div className="page">
      <Head
        title={`${p.artist} on the ${p.tablet}`}
        rename={{ name: p.tablet, label: 'the tablet', may, onName: rename }}
        says={`warmed up on ${day(p.kept_at)}, ${age(p.kept_at)}${own.length ? ` · ${own.length} other ${own.length === 1 ? 'version' : 'versions'}` : ''}`}
      >
        <Form.Group controlId="before">
          <Form.Label className="mb-0 soft">compare with</Form.Label>
          <Form.Select size="sm" value={before} onChange={(e) => setBefore(e.target.value)}>
            <option value="">none</option>
            {[...own, ...others.filter((o) => !own.includes(o))].map((o) => (
              <option key={o.id} value={o.id}>
                {own.includes(o) ? `version of ${day(o.kept_at)}` : `${o.artist} on the ${o.tablet}`}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        <a className="btn btn-paper" href={`/api/v1/productions/${production.id}/profiles/${id}/warm-up`} download>
          Warm-up as InkML
        </a>
        {may && (
          <Button variant="paper" onClick={() => setOpen(open === 'scale' ? null : 'scale')}>
            Measure force
          </Button>
        )}
        {may && <Button onClick={() => setOpen(open === 're-check' ? null : 're-check')}>Re-check in 30 seconds</Button>}
      </Head>
      {open === 're-check' && <Recheck id={id} response={p.profile.response} />}
      {open === 'scale' && <HandScale id={id} />}
      <div className="d-flex gap-2 flex-wrap">
        <div className="card-plain" style={{ flex: '2 1 480px' }}>
          <div className="d-flex justify-content-between align-items-baseline">
            <h2>Response</h2>
            {may && <Link to={`/tablets/${id}/pairs`}>Compare with your pen</Link>}
          </div>
          <div className="soft tight">
            raw pressure across, effort upward; grey: the pressures that were used; upright dashes: first ink and full point
            {by && `; it comes from ${by === 'over' ? 'lines that were gone over' : 'paper over the tablet'}, not from the five efforts`}
            {earlier && `; broken line: ${earlier.artist} on the ${earlier.tablet}, ${day(earlier.kept_at)}`}
          </div>
          <Response profile={p.profile} used={p.used} before={earlier?.profile} />
        </div>
        <div className="card-plain" style={{ flex: '1 1 280px' }}>
          <h2>What the device does</h2>
          <ProfileFigures profile={p.profile} />
          {p.profile.force_n && (
            <div className="figure-row">
              <span>force at hardest reading</span>
              <b>{(p.profile.force_n[p.profile.force_n.length - 1]?.[1] ?? 0).toFixed(2)} N</b>
            </div>
          )}
        </div>
      </div>
      {saved.data && (
        <div className="mt-2">
          <PairsResult view={saved.data} scan={null} />
        </div>
      )}
      <EvidencePictures id={id} />
      <div className="d-flex gap-2 flex-wrap mt-2">
        <SecondEstimate id={id} />
      </div>
      <div className="mt-3">
        <ArchiveIt kind="profiles" id={p.id} name={`${p.artist} on the ${p.tablet}`} />
      </div>
    </div>
  );
}
