// A delivery: frame lanes above, the drawing with its findings below; progress while it is weighed.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { useParams, useSearchParams } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { DrawingPicture, MASKED } from '../lanes/DrawingView';
import { FrameLanes } from '../lanes/FrameLanes';
import { Empty, Head, Loading, Problem } from '../lanes/states';
import { useMayChange, useOpen } from '../session';
import { NamesPreview } from './Checks';

/** How much of the lines was weighed, and what was left out as no line. */
function measured(check: Schemas['DrawingCheck']) {
  const length = check.roles.reduce((s, r) => s + r.length_px, 0);
  const share = check.roles.reduce((s, r) => s + r.length_px * r.measured_share, 0) / (length || 1);
  const kinds = [...new Set(check.masked?.map((m) => MASKED[m.kind]))];
  return `${(100 * share).toFixed(0)} % of the lines weighed; ends, junctions and corners are not${kinds.length ? `, nor ${kinds.join(', ')} (hatched)` : ''}`;
}

type Progress = { waiting: number; done: number; failed: number };

const px = (v: number) => `${v.toFixed(1)} px`;
/** A finding's figure in the unit of its kind. */
const FIGURE: Record<Schemas['FindingKind'], (v: number) => string> = {
  heavy: px,
  thin: px,
  gap: px,
  double: px,
  'soft-edge': px,
  'hard-edge': px,
  drift: px,
  uneven: (v) => `${(100 * v).toFixed(0)} %`,
  boil: (v) => `${(100 * v).toFixed(0)} %`,
  hook: (v) => `${v.toFixed(0)}°`,
  speck: (v) => `${v.toFixed(1)} px²`,
  pinhole: (v) => `${v.toFixed(1)} px²`,
  'off-palette': (v) => `${v.toFixed(0)} ΔE`,
  'blunt-end': (v) => `${v.toFixed(1)} widths`,
  'tapered-end': (v) => `${v.toFixed(1)} widths`,
};

export function Delivery() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const may = useMayChange();
  const client = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const [progress, setProgress] = useState<Progress | null>(null);
  const [finding, setFinding] = useState<number | null>(null);
  const [asDrawn, setAsDrawn] = useState(false);
  const [onion, setOnion] = useState(false);
  const [zoomed, setZoomed] = useState(false);
  const [pattern, setPattern] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const params = { path: { production: production.id, id } };
  const base = `/api/v1/productions/${production.id}`;
  const delivery = useQuery({ queryKey: ['delivery', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/deliveries/{id}', { params })) });
  const waiting = delivery.data?.drawings.some((d) => d.state === 'waiting') ?? false;

  useEffect(() => {
    if (!waiting) return;
    const source = new EventSource(`${base}/deliveries/${id}/progress`);
    let seen = -1;
    source.onmessage = (e) => {
      const p = JSON.parse(e.data) as Progress;
      setProgress(p);
      if (p.done + p.failed !== seen) void client.invalidateQueries({ queryKey: ['delivery', id] });
      seen = p.done + p.failed;
      if (p.waiting === 0) {
        source.close();
        setProgress(null);
        void client.invalidateQueries({ queryKey: ['deliveries'] });
      }
    };
    return () => source.close();
  }, [waiting, base, id, client]);

  const drawings = delivery.data?.drawings ?? [];
  const worst = drawings.find((d) => d.check?.hand_on === 'return') ?? drawings[0];
  const selected = search.get('drawing') ?? worst?.id ?? null;
  const index = drawings.findIndex((d) => d.id === selected);
  const select = useCallback(
    (d: string) => {
      setSearch({ drawing: d }, { replace: true });
      setFinding(null);
    },
    [setSearch],
  );
  const load = (d: string | undefined) => ({
    queryKey: ['drawing', d],
    enabled: !!d,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params: { path: { production: production.id, id: d ?? '' } } })),
  });
  const state = drawings[index]?.state;
  const one = useQuery({ ...load(selected ?? undefined), queryKey: ['drawing', selected, state] });
  const before = useQuery({ ...load(drawings[index - 1]?.id), enabled: onion && index > 0 });
  const after = useQuery({ ...load(drawings[index + 1]?.id), enabled: onion && index < drawings.length - 1 });
  const drop = useDropzone({
    onDrop: async (files) => {
      try {
        setError(null);
        for (let i = 0; i < files.length; i += 6) await sendFiles(`${base}/deliveries/${id}/drawings`, files.slice(i, i + 6));
        await client.invalidateQueries({ queryKey: ['delivery', id] });
      } catch (e) {
        setError(e);
      }
    },
  });
  const findings = one.data?.check?.findings ?? [];
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (['INPUT', 'SELECT', 'TEXTAREA'].includes((e.target as HTMLElement).tagName)) return;
      if (e.key === 'n' || e.key === 'p')
        setFinding((f) => (findings.length ? ((f ?? -1) + (e.key === 'n' ? 1 : -1) + findings.length) % findings.length : null));
      if ((e.key === 'ArrowRight' || e.key === 'ArrowLeft') && !e.defaultPrevented) {
        const d = drawings[index + (e.key === 'ArrowRight' ? 1 : -1)];
        if (d) select(d.id);
      }
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  });

  if (delivery.isLoading) return <Loading what="the delivery" />;
  if (!delivery.data)
    return (
      <div className="page">
        <Problem error={delivery.error} />
      </div>
    );
  const d = delivery.data;
  const row = drawings[index];
  const failed = drawings.filter((x) => x.state === 'failed');
  const artists = [...new Set(drawings.map((x) => x.manifest.artist).filter(Boolean))];
  const total = progress ? progress.waiting + progress.done + progress.failed : 0;
  const roles = row?.check?.roles.filter((r) => r.verdict && r.verdict !== 'within') ?? [];
  return (
    <div className="page">
      <Head
        title={d.name}
        says={
          <>
            {drawings.length} drawings{artists.length ? ` by ${artists.join(', ')}` : ', artists not known'} · held against {d.guide.name}, version{' '}
            {d.guide_version}
          </>
        }
        state={
          <>
            <b>{d.headline}</b>
            <div className="soft">{d.summary}</div>
          </>
        }
      >
        <a className="btn btn-paper" href={`${base}/deliveries/${id}/line-check`} download="line-check.json">
          Findings as JSON
        </a>
        {may && (
          <Button variant="paper" onClick={() => setPattern(pattern === null ? d.pattern : null)}>
            How names are read
          </Button>
        )}
      </Head>
      <Problem error={error} />
      {d.sequence.map((f) => (
        <p key={`${f.kind} ${f.role} ${f.artist}`} className="mb-2">
          <b>{f.message}</b> <span className="soft">px at the page’s size; seen over the drawings, on none of them alone</span>
        </p>
      ))}
      {progress && (
        <div className="card-plain mb-2 d-flex gap-3 align-items-center" role="status">
          <span className="tight text-nowrap">
            {progress.done + progress.failed} of {total} weighed, {progress.waiting} left
          </span>
          <progress value={progress.done + progress.failed} max={total || 1} style={{ flex: 1 }} />
        </div>
      )}
      {pattern !== null && (
        <div className="card-plain mb-2">
          <div className="d-flex gap-2 align-items-end mb-2">
            <Form.Group controlId="pattern" style={{ flex: 1 }}>
              <Form.Label className="mb-0">How the file names are read</Form.Label>
              <Form.Control size="sm" value={pattern} onChange={(e) => setPattern(e.target.value)} />
            </Form.Group>
            <Button
              size="sm"
              onClick={async () => {
                try {
                  setError(null);
                  await take(api.PUT('/api/v1/productions/{production}/deliveries/{id}/pattern', { params, body: { pattern, files: [] } }));
                  await client.invalidateQueries({ queryKey: ['delivery', id] });
                  setPattern(null);
                } catch (e) {
                  setError(e);
                }
              }}
            >
              Read them so
            </Button>
          </div>
          <NamesPreview files={drawings.map((x) => x.file)} pattern={pattern} />
        </div>
      )}
      {drawings.length === 0 ? (
        <Empty title="No drawings in this delivery">
          <div {...drop.getRootProps({ className: 'drop mt-2' })}>
            <input {...drop.getInputProps()} aria-label="drawings" />
            Drop drawings here
          </div>
        </Empty>
      ) : (
        <>
          <FrameLanes delivery={d} selected={selected} onSelect={select} />
          {failed.map((f) => (
            <div key={f.id} className="stop tight">
              {f.file}: {f.message}
            </div>
          ))}
          <div style={{ display: 'grid', gridTemplateColumns: '1fr 320px', gap: 12, marginTop: 12, alignItems: 'start' }}>
            <div className="lanes">
              <div className="d-flex justify-content-between px-3 py-2 tabs" style={{ borderBottom: '1px solid var(--hairline)' }}>
                <div>
                  <button type="button" aria-pressed={!asDrawn} onClick={() => setAsDrawn(false)}>
                    weight
                  </button>
                  <button type="button" aria-pressed={asDrawn} onClick={() => setAsDrawn(true)}>
                    as drawn
                  </button>
                  <button type="button" aria-pressed={onion} onClick={() => setOnion(!onion)}>
                    neighbours behind
                  </button>
                  <button type="button" aria-pressed={zoomed} onClick={() => setZoomed(!zoomed)}>
                    zoom to the finding
                  </button>
                </div>
                <span className="tight small">
                  <span className="thin">▬ thinner</span> · <span>▬ within</span> · <span className="heavy">▬ heavier</span> ·{' '}
                  <span className="soft">▬ not measured</span>
                </span>
              </div>
              {one.data ? (
                <DrawingPicture
                  drawing={one.data}
                  behind={onion ? [before.data, after.data].filter((x): x is Schemas['DrawingView'] => !!x) : []}
                  image={`${base}/images/${one.data.sha256}`}
                  selected={finding}
                  onSelect={(i) => setFinding(i)}
                  asDrawn={asDrawn}
                  zoomed={zoomed}
                />
              ) : (
                <Problem error={one.error} />
              )}
            </div>
            <div className="lanes">
              <div className="px-3 py-2">
                <h2>
                  {row?.manifest.drawing ? `Drawing ${row.manifest.drawing}` : row?.file}
                  {row?.manifest.artist ? ` · ${row.manifest.artist}` : ''}
                </h2>
                <div className="tight soft">
                  {row?.state === 'waiting'
                    ? 'not weighed yet'
                    : row?.state === 'failed'
                      ? row.message
                      : row?.check?.hand_on === 'return'
                        ? 'goes back'
                        : row?.check?.hand_on === 'ready'
                          ? 'ready'
                          : 'not decided: kinds that must be mended are not all looked for'}
                  {findings.length ? ` · ${findings.length} ${findings.length === 1 ? 'finding' : 'findings'}` : ''}
                </div>
              </div>
              {roles.map((r) => (
                <div key={r.role} className="px-3 py-1 tight" style={{ borderTop: '1px solid var(--hairline)' }}>
                  <b className={r.verdict === 'heavy' ? 'heavy' : r.verdict === 'thin' ? 'thin' : ''}>
                    {r.role} {r.verdict === 'too-close' ? 'too close to say' : r.verdict}
                  </b>
                  {r.weight_px && (
                    <span className="soft">
                      {' '}
                      {r.weight_px.mean.toFixed(2)} px ({r.weight_px.interval.map((v) => v.toFixed(2)).join(' to ')})
                    </span>
                  )}
                </div>
              ))}
              <div style={{ maxHeight: 330, overflowY: 'auto' }}>
                {findings.map((f, i) => (
                  <button
                    key={i}
                    type="button"
                    className="finding"
                    aria-current={finding === i}
                    onClick={() => {
                      setFinding(i);
                      setZoomed(true);
                    }}
                  >
                    <span className="pin">{i + 1}</span>
                    <span>
                      <b>
                        {f.kind} {f.role}
                      </b>
                      {f.must_mend ? ' · must be mended' : ''}
                      <br />
                      <span className="soft">
                        {f.kind === 'heavy' || f.kind === 'thin'
                          ? `${f.length_px?.toFixed(0)} px long; ${f.kind === 'heavy' ? 'at most' : 'at least'} ${f.limit.toFixed(1)}`
                          : f.message.slice(f.message.indexOf(': ') + 2)}
                      </span>
                    </span>
                    <b className={f.kind === 'heavy' || f.kind === 'thin' ? f.kind : ''}>{FIGURE[f.kind](f.value)}</b>
                  </button>
                ))}
                {row?.check && findings.length === 0 && (
                  <div className="px-3 py-2 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
                    Nothing found. Not looked for: {d.not_looked_for.join(', ') || 'nothing'}.
                  </div>
                )}
              </div>
              {row?.check && (
                <div className="px-3 py-2 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
                  {measured(row.check)}
                </div>
              )}
              <div className="px-3 py-2 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
                ← → drawing · n, p finding
              </div>
            </div>
          </div>
        </>
      )}
    </div>
  );
}
