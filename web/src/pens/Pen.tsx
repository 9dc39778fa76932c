// A pen: its figures with their spreads, and the lines that they came from.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useNavigate, useParams } from 'react-router';
import { api, take } from '../api/client';
import { effortName, LinesTable } from '../lanes/LinesTable';
import { ArchiveIt } from '../parts/ArchiveIt';
import { Assumed } from '../parts/Assumed';
import { usePens, useProfiles } from '../parts/lists';
import { useMyTablet } from '../parts/myTablet';
import { day, Head, Loading, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useMayChange, useOpen } from '../session';
import { EdgeCorrelation, Seam } from './PenParts';
import { PenFiles, SheetParts } from './PenSheet';

export function Pen() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const navigate = useNavigate();
  const client = useQueryClient();
  const may = useMayChange();
  const profiles = useProfiles();
  // One's own tablet, until another is chosen.
  const mine = useMyTablet().profile?.id;
  const [chosenProfile, setProfile] = useState<string | null>(null);
  const profile = chosenProfile ?? mine ?? '';
  const making = useWork();
  const [cell, setCell] = useState<string | null>(null);
  const pens = usePens();
  const params = { path: { production: production.id, id } };
  const pen = useQuery({ queryKey: ['pen', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/pens/{id}', { params })) });
  if (pen.isLoading) return <Loading what="the pen" />;
  if (!pen.data)
    return (
      <div className="page">
        <Problem error={pen.error} />
      </div>
    );
  const p = pen.data;
  const make = () =>
    making.work('making the brush', async () => {
      const body = { name: p.name, pen_id: p.id, profile_id: profile || null };
      const b = await take(api.POST('/api/v1/productions/{production}/brushes', { params: { path: { production: production.id } }, body }));
      navigate(`/brushes/${b.id}`);
    });
  const rename = async (name: string) => {
    await take(api.PUT('/api/v1/productions/{production}/pens/{id}/name', { params, body: { name } }));
    await client.invalidateQueries();
  };
  const base = `/api/v1/productions/${production.id}`;
  /** Shows the lines that were ruled at an effort: the sheet's cell, or the first of the scan's lines. */
  const open = (effort: number) => {
    if (p.sheet) setCell(`effort-${effort}`);
    const first = p.lines.findIndex((l) => l.effort === effort);
    requestAnimationFrame(() => document.getElementById(p.sheet ? 'cell' : `line-${first + 1}`)?.scrollIntoView({ block: 'center' }));
  };
  const widths = p.card.widths_by_effort ?? [];
  const interval = (effort: number) => {
    const f = p.figures.find((x) => x.figure === 'width by effort' && Number(x.at) === effort);
    return f?.interval ? `mean ${(f.interval[0] ?? 0).toFixed(3)} – ${(f.interval[1] ?? 0).toFixed(3)}` : '';
  };
  const forces = widths.some((w) => w.force_n != null);
  const sure = (i: number[] | null | undefined, digits: number) => (i ? ` (${i.map((v) => v.toFixed(digits)).join(' – ')})` : '');
  const most = Math.max(...widths.map((w) => w.width_mm), 0.1);
  return (
    <div className="page">
      <Head
        title={p.name}
        rename={{ name: p.name, label: 'the pen', may, onName: rename }}
        says={`${p.sheet ? `sampler sheet ${p.sheet.reading.plan.number}, ` : ''}${p.lines.length} lines ${p.measurement?.photo ? 'from a photo' : `at ${p.card.resolution_dpi} dpi`} · saved by ${p.kept_by} on ${day(p.kept_at)}`}
      >
        {may && (
          <div className="d-flex gap-2 align-items-end">
            <label className="tight soft">
              through
              <select className="form-select form-select-sm" value={profile} onChange={(e) => setProfile(e.target.value)} aria-label="tablet profile">
                <option value="">no tablet profile</option>
                {profiles.data?.map((f) => (
                  <option key={f.id} value={f.id}>
                    {f.artist} on the {f.tablet}
                  </option>
                ))}
              </select>
            </label>
            {profile && (
              <Link
                className="btn btn-paper"
                to={`/tablets/${profile}/pairs?pen=${p.id}`}
                title="ink its scanned lines again with the stylus: what pressure gives what width"
              >
                Go over these lines
              </Link>
            )}
            <Button disabled={!!making.busy} onClick={make}>
              Make a brush
            </Button>
          </div>
        )}
      </Head>
      <Problem error={making.error} />
      {p.card.warnings?.map((w) => (
        <div key={w} className="notice">
          {w}
        </div>
      ))}
      <div className="d-flex gap-2 mb-3 flex-wrap">
        <div className="card-plain" style={{ flex: '2 1 420px' }}>
          <h2>Width by effort</h2>
          {widths.map((w) => (
            <div key={w.effort} className="d-flex align-items-center gap-2 tight" style={{ minHeight: 24 }}>
              <button
                type="button"
                className="btn-word text-start"
                style={{ width: 66 }}
                title="see the lines that it came from"
                onClick={() => open(w.effort)}
              >
                {effortName(w.effort)}
              </button>
              <svg viewBox={`0 0 60 ${Math.max(most, 1.4)}`} style={{ flex: 1, height: 24 }} preserveAspectRatio="none" aria-hidden>
                <rect x="0" y={(Math.max(most, 1.4) - w.width_mm) / 2} width="60" height={w.width_mm} fill="var(--ink)" />
              </svg>
              <b style={{ width: 130, textAlign: 'right' }}>
                {w.width_mm.toFixed(3)}
                {w.sd_mm != null ? ` ± ${w.sd_mm.toFixed(3)}` : ''} mm
              </b>
              <span className="soft" style={{ width: 50 }}>
                {w.lines} {w.lines === 1 ? 'line' : 'lines'}
              </span>
              <span className="soft" style={{ width: 118 }}>
                {interval(w.effort)}
              </span>
              {forces && (
                <span className="soft" style={{ width: 56, textAlign: 'right' }}>
                  {w.force_n != null ? `${w.force_n.toFixed(2)} N` : ''}
                </span>
              )}
            </div>
          ))}
        </div>
        <div className="card-plain" style={{ flex: '1 1 220px' }}>
          <div className="d-flex justify-content-between">
            <h2>Edge and ink</h2>
            <button type="button" className="btn-word" onClick={() => open(0.5)}>
              see the lines
            </button>
          </div>
          <div className="figure-row">
            <span>raggedness</span>
            <b>{p.card.edge ? `${p.card.edge.raggedness_um.toFixed(1)} µm${sure(p.card.edge.raggedness_interval_um, 1)}` : 'not shown'}</b>
          </div>
          <div className="figure-row">
            <span>grain length</span>
            <b>{p.card.edge?.raggedness_correlation_um ? `${p.card.edge.raggedness_correlation_um.toFixed(0)} µm` : 'too smooth to tell'}</b>
          </div>
          {p.card.edge?.wander_um != null && (
            <div className="figure-row">
              <span>wander, the hand’s</span>
              <b>{p.card.edge.wander_um.toFixed(0)} µm</b>
            </div>
          )}
          <div className="figure-row">
            <span>blurriness of the scan</span>
            <b>{p.card.edge ? `${p.card.edge.blurriness_um.toFixed(0)} µm${sure(p.card.edge.blurriness_interval_um, 0)}` : 'not shown'}</b>
          </div>
          {p.card.edge?.from_mm != null && (
            <div className="figure-row">
              <span>from a length of line of</span>
              <b>{p.card.edge.from_mm.toFixed(0)} mm</b>
            </div>
          )}
          <div className="figure-row">
            <span>darkness against the paper</span>
            <b>{p.card.darkness?.toFixed(2) ?? 'not shown'}</b>
          </div>
          <div className="figure-row">
            <span>nearest standard width</span>
            <b>{p.card.nearest_standard_width_mm ? `${p.card.nearest_standard_width_mm} mm` : 'none within 10 %'}</b>
          </div>
        </div>
        <div className="card-plain" style={{ flex: '1 1 180px' }}>
          <h2>Note</h2>
          {(['paper', 'ink', 'wear', 'use'] as const).map((k) => (
            <div key={k} className="figure-row">
              <span>{k}</span>
              <b>{p.card.note?.[k] || '–'}</b>
            </div>
          ))}
        </div>
      </div>
      <PenFiles pen={p} base={base} may={may} others={(pens.data ?? []).filter((o) => o.id !== p.id)} />
      {p.sheet ? (
        <SheetParts pen={p} sheet={p.sheet} base={base} cell={cell} setCell={setCell} />
      ) : (
        <>
          <div className="d-flex gap-2 mb-3 flex-wrap">
            <EdgeCorrelation points={p.autocorrelation} length={p.card.edge?.raggedness_correlation_um} />
            {p.card.strip_png && <Seam strip={p.card.strip_png} />}
          </div>
          {p.measurement && <LinesTable measurement={p.measurement} lines={p.lines} efforts={p.lines.map((l) => l.effort ?? null)} />}
        </>
      )}
      <Assumed sentences={(p.card.source ?? p.measurement?.source)?.assumed ?? []} />
      <div className="mt-3">
        <ArchiveIt kind="pens" id={p.id} name={p.name} />
      </div>
    </div>
  );
}
