// A trial page: ink over a rough with the brushes of the roll, by line role, and see the weight against the guide while drawing.
import { useQueries, useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useParams } from 'react-router';
import { pull, put_right } from '../../engine/prebuilt/eddymist_wasm';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { type Engine, loadEngine, makeEngine, type Samples } from '../engine/engine';
import { Conflict } from '../parts/Conflict';
import { Figure } from '../parts/Figure';
import { otherSide } from '../parts/stale';
import { Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { InkSketch } from './InkSketch';
import { ReturnedMarks, ReturnedNotes } from './Returned';
import { type Drawn, TrialSheet } from './TrialSheet';

type Stroke = Schemas['TrialStroke'];
/** Which brush inks a pass, and how. */
type Pass = { role: string; brush: string; version: number; colour: string; factor: number };

/** Along a line a pull reaches this far, mm. */
const REACH_MM = 12;
const nulls = (s: ArrayLike<number>) => Array.from(s, (v) => (Number.isFinite(v) ? v : null));
const samplesOf = (s: Stroke): Samples =>
  Object.assign(
    s.samples.map((v) => v ?? Number.NaN),
    { zoom: s.zoom },
  );

const NONE: Stroke[] = [];
const NOTHING: Set<number> = new Set();
const byId = (results: { data?: Schemas['BrushView'] }[]): Record<string, Schemas['BrushView']> =>
  Object.fromEntries(results.flatMap((r) => (r.data ? [[r.data.id, r.data]] : [])));

export function Trial() {
  const { id = '' } = useParams();
  return <TrialOf key={id} id={id} />;
}

function TrialOf({ id }: { id: string }) {
  const { production } = useOpen();
  const may = useMayChange();
  const params = { path: { production: production.id } };
  const at = { path: { production: production.id, id } };
  const view = useQuery({
    queryKey: ['trial', id],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/trials/{id}', { params: at })),
  });
  const rack = useQuery({ queryKey: ['brushes', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes', { params })) });
  const roll = useQuery({ queryKey: ['roll', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/roll', { params })) });
  const guides = useQuery({ queryKey: ['guides', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params })) });
  const [page, setPage] = useState<Schemas['TrialPage'] | null>(null);
  const [past, setPast] = useState<Stroke[][]>([]);
  const [next, setNext] = useState<Stroke[][]>([]);
  const [role, setRole] = useState('');
  const [other, setOther] = useState('');
  const [pointing, setPointing] = useState(false);
  const [edge, setEdge] = useState<'' | 'straight' | 'arc'>('');
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const [hidden, setHidden] = useState<Set<string>>(new Set());
  const [rough, setRough] = useState(0.45);
  const [skin, setSkin] = useState(0.25);
  const [zoom, setZoom] = useState(0.5);
  const [grid, setGrid] = useState(false);
  const [hard, setHard] = useState(false);
  const [weight, setWeight] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [saving, setSaving] = useState(false);
  const [theirs, setTheirs] = useState<Schemas['TrialView'] | null>(null);
  const revision = useRef(0);
  const kept = useRef('');

  useEffect(() => {
    if (view.data && !page) {
      setPage(view.data.page);
      revision.current = view.data.revision;
      kept.current = JSON.stringify(view.data.page);
    }
  }, [view.data, page]);

  // What is drawn is kept on the server a moment after the last change.
  useEffect(() => {
    if (!page || saving || theirs || JSON.stringify(page) === kept.current) return;
    const timer = setTimeout(() => {
      setSaving(true);
      take(api.PUT('/api/v1/productions/{production}/trials/{id}', { params: at, body: { page, from_revision: revision.current } }))
        .then((s) => {
          revision.current = s.revision;
          kept.current = JSON.stringify(page);
          setError(null);
        })
        .catch((e) => {
          const other = otherSide<Schemas['TrialView']>(e);
          if (other) setTheirs(other);
          else setError(e);
        })
        .finally(() => setSaving(false));
    }, 700);
    return () => clearTimeout(timer);
  });

  const passes: Pass[] = useMemo(
    () =>
      (roll.data ?? []).map((r) => ({
        role: r.role,
        brush: r.brush_id,
        version: r.version,
        colour: r.colour ?? rack.data?.find((b) => b.id === r.brush_id)?.brush.colour ?? '#000000',
        factor: r.weight_factor,
      })),
    [roll.data, rack.data],
  );
  const first = rack.data?.[0];
  const current: Pass | null = useMemo(() => {
    const of = passes.find((p) => p.role === role) ?? passes[0];
    const b = rack.data?.find((x) => x.id === other);
    if (b) return { role: of?.role ?? 'any line', brush: b.id, version: b.current_version, colour: of?.colour ?? b.brush.colour ?? '#000000', factor: 1 };
    if (of) return of;
    return first ? { role: 'any line', brush: first.id, version: first.current_version, colour: first.brush.colour ?? '#000000', factor: 1 } : null;
  }, [passes, role, other, rack.data, first]);

  // Every brush that inks anything here, with all of its versions.
  const ids = [...new Set([...(page?.strokes ?? []).map((s) => s.brush_id), ...(current ? [current.brush] : [])])];
  const brushes = useQueries({
    queries: ids.map((b) => ({
      queryKey: ['brush', b],
      queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes/{id}', { params: { path: { production: production.id, id: b } } })),
    })),
    combine: byId,
  });
  const [ready, setReady] = useState(false);
  useEffect(() => {
    loadEngine().then(() => setReady(true));
  }, []);
  const engines = useRef<Map<string, Engine>>(new Map());
  const pxPerMm = page?.px_per_mm ?? 6;
  const engineOf = useCallback(
    (brush: string, version: number, factor: number): Engine | null => {
      const v = brushes[brush];
      const of = v?.versions.find((x) => x.version === version);
      if (!ready || !v || !of) return null;
      const key = `${brush}@${version}×${factor}`;
      let e = engines.current.get(key);
      if (!e) {
        e = makeEngine(of.brush, v.response, pxPerMm, factor);
        engines.current.set(key, e);
      }
      return e;
    },
    [brushes, ready, pxPerMm],
  );
  const strokes = page?.strokes ?? NONE;
  const drawn = useMemo(() => {
    const out: Drawn[] = [];
    for (const s of strokes) {
      const engine = engineOf(s.brush_id, s.version, s.weight_factor ?? 1);
      if (!engine || hidden.has(s.role)) continue;
      const samples = samplesOf(s);
      out.push({
        key: `${s.brush_id}@${s.version}×${s.weight_factor}|${s.colour}|${samples.length}|${samples.slice(0, 9).join()}|${samples.slice(-9).join()}`,
        engine,
        samples,
        colour: s.colour,
      });
    }
    return out;
  }, [strokes, hidden, engineOf]);

  const put = useCallback(
    (to: Stroke[]) => {
      if (!page) return;
      setPast((p) => [...p.slice(-200), page.strokes]);
      setNext([]);
      setPage({ ...page, strokes: to });
    },
    [page],
  );
  const undo = () => {
    const last = past[past.length - 1];
    if (!page || !last) return;
    setNext([page.strokes, ...next]);
    setPast(past.slice(0, -1));
    setPage({ ...page, strokes: last });
    setChosen(new Set());
  };
  const redo = () => {
    const to = next[0];
    if (!page || !to) return;
    setPast([...past, page.strokes]);
    setNext(next.slice(1));
    setPage({ ...page, strokes: to });
  };
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if ((e.target as HTMLElement).tagName === 'INPUT') return;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z') {
        e.preventDefault();
        if (e.shiftKey) redo();
        else undo();
      }
      if (e.key === 'Delete' && chosen.size) {
        put(strokes.filter((_, i) => !chosen.has(i)));
        setChosen(new Set());
      }
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  });
  const guide = guides.data?.[0]?.guide;
  const target = guide?.roles.find((r) => r.name === current?.role)?.weight_px;
  // The guide's px are its page's; the trial page may be of another size.
  const scale = page && guide ? page.width_px / guide.page.width_px : 1;
  const engine = current ? engineOf(current.brush, current.version, current.factor) : null;
  const tell = (samples: Samples) => engine && setWeight(engine.weight(new Float64Array(samples), samples.zoom ?? 1) * pxPerMm);

  if (view.isLoading || !page)
    return view.error ? (
      <div className="page">
        <Problem error={view.error} />
      </div>
    ) : (
      <Loading what="the trial page" />
    );
  /** What the edge in hand makes of a stroke. */
  const right = (samples: Samples): Samples => Object.assign(Array.from(put_right(new Float64Array(samples), edge)), { zoom: samples.zoom });
  const judged = () => {
    if (weight === null || !target) return null;
    const [goal, tolerance] = [target.target * scale, target.tolerance * target.target * scale];
    const off = weight - goal;
    return { goal, tolerance, says: Math.abs(off) <= tolerance ? 'within' : off > 0 ? 'heavy' : 'thin' };
  };
  const tag = () => {
    const j = judged();
    return (
      <b className={j && j.says !== 'within' ? j.says : ''}>
        {weight?.toFixed(2)} px{j ? `: ${j.says}` : ''}
      </b>
    );
  };
  const verdict = () => {
    if (weight === null) return <span className="soft">draw to see the weight on the line</span>;
    const px = `${weight.toFixed(2)} px`;
    const j = judged();
    if (!j)
      return (
        <>
          <b>{px}</b> <span className="soft">{current?.role} has no weight in the guide</span>
        </>
      );
    return (
      <>
        <b className={j.says === 'within' ? '' : j.says}>
          {px}: {j.says}
        </b>{' '}
        <span className="soft">
          {current?.role} {j.goal.toFixed(1)} ± {j.tolerance.toFixed(1)} px
        </span>
      </>
    );
  };
  const edit = (how: (s: Stroke) => Partial<Stroke>) => put(strokes.map((s, i) => (chosen.has(i) ? { ...s, ...how(s) } : s)));
  const one = [...chosen].map((i) => strokes[i]).find(Boolean);
  const newer = strokes.filter((s) => {
    const v = brushes[s.brush_id];
    return v && v.current_version !== s.version;
  });
  const reInk = (which: (i: number) => boolean) =>
    put(strokes.map((s, i) => (which(i) ? { ...s, version: brushes[s.brush_id]?.current_version ?? s.version } : s)));
  const picture = (sha: string) => `/api/v1/productions/${production.id}/images/${sha}`;
  const out = (kind: string) => `/api/v1/productions/${production.id}/trials/${id}/out/${kind}`;
  const roles = [...new Set([...passes.map((p) => p.role), ...strokes.map((s) => s.role)])];
  return (
    <div className="page trial">
      <Head
        title={view.data?.name}
        says={
          <>
            {page.width_px} × {page.height_px} px, {pxPerMm} px to the mm · {strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`} ·{' '}
            {saving || JSON.stringify(page) !== kept.current ? <b style={{ color: 'var(--warn)' }}>Saving…</b> : 'Saved'}
          </>
        }
        state={<span className="tight">{verdict()}</span>}
      >
        <div className="d-flex gap-2">
          <Button variant="paper" disabled={!past.length} onClick={undo}>
            Undo
          </Button>
          <Button variant="paper" disabled={!next.length} onClick={redo}>
            Redo
          </Button>
        </div>
      </Head>
      <Problem error={error ?? rack.error ?? roll.error} />
      {theirs && (
        <Conflict
          what="this trial page"
          keep="Save mine"
          mine={<InkSketch page={page} />}
          theirs={<InkSketch page={theirs.page} />}
          onMine={() => {
            revision.current = theirs.revision;
            setTheirs(null);
          }}
          onTheirs={() => {
            put(theirs.page.strokes);
            setPage(theirs.page);
            revision.current = theirs.revision;
            kept.current = JSON.stringify(theirs.page);
            setTheirs(null);
          }}
        />
      )}
      <div className="trial-bar tight">
        <span className="tabs" role="group" aria-label="line role">
          {(passes.length ? passes : current ? [current] : []).map((p) => (
            <button
              key={p.role}
              type="button"
              aria-pressed={!pointing && current?.role === p.role}
              onClick={() => {
                setRole(p.role);
                setPointing(false);
                setOther('');
              }}
            >
              <span className="swatch" style={{ background: p.colour }} /> {p.role}
            </button>
          ))}
        </span>
        <select className="form-select form-select-sm tight w-auto" aria-label="brush" value={other} onChange={(e) => setOther(e.target.value)}>
          <option value="">{passes.length ? 'the roll’s brush' : (first?.name ?? 'no brush')}</option>
          {rack.data?.map((b) => (
            <option key={b.id} value={b.id}>
              {b.name}
            </option>
          ))}
        </select>
        <span className="tabs" role="group" aria-label="edge to draw along">
          {(
            [
              ['', 'by hand'],
              ['straight', 'straight edge'],
              ['arc', 'arc'],
            ] as const
          ).map(([k, word]) => (
            <button
              key={k}
              type="button"
              aria-pressed={!pointing && edge === k}
              onClick={() => {
                setEdge(k);
                setPointing(false);
              }}
            >
              {word}
            </button>
          ))}
        </span>
        <span className="tabs">
          <button type="button" aria-pressed={pointing} onClick={() => setPointing(!pointing)}>
            choose strokes
          </button>
        </span>
        <span className="tabs ms-auto" role="group" aria-label="zoom">
          {[0.25, 0.5, 1, 2, 4, 8].map((z) => (
            <button key={z} type="button" aria-pressed={zoom === z} onClick={() => setZoom(z)}>
              {z === 1 ? '1:1' : `${z}×`}
            </button>
          ))}
        </span>
      </div>
      <div className="d-flex gap-2">
        <TrialSheet
          width={page.width_px}
          height={page.height_px}
          pxPerMm={pxPerMm}
          zoom={zoom / window.devicePixelRatio}
          strokes={drawn}
          chosen={pointing ? chosen : NOTHING}
          engine={may ? engine : null}
          colour={current?.colour ?? '#000'}
          drawing={!pointing && may}
          grid={grid}
          hard={hard}
          onLive={tell}
          right={edge ? right : undefined}
          tag={weight !== null && tag()}
          onStroke={(samples) => {
            if (!current) return;
            const put_ = edge ? right(samples) : samples;
            tell(put_);
            put([
              ...strokes,
              {
                samples: nulls(put_),
                zoom: samples.zoom,
                brush_id: current.brush,
                version: current.version,
                role: current.role,
                colour: current.colour,
                weight_factor: current.factor,
              },
            ]);
          }}
          onPoint={(to, add) => {
            let best = { d: 3, i: -1 };
            strokes.forEach((s, i) => {
              for (let k = 0; k + 2 < s.samples.length; k += 6) {
                const d = Math.hypot((s.samples[k + 1] ?? 0) - to[0], (s.samples[k + 2] ?? 0) - to[1]);
                if (d < best.d) best = { d, i };
              }
            });
            const next = new Set(add ? chosen : []);
            if (best.i >= 0) next.add(best.i);
            setChosen(next);
          }}
          onPull={(from, to) =>
            chosen.size && edit((s) => ({ samples: nulls(pull(new Float64Array(samplesOf(s)), new Float64Array(from), new Float64Array(to), REACH_MM)) }))
          }
        >
          {page.rough && rough > 0 && (
            <img src={picture(page.rough)} alt="the rough" draggable={false} style={{ position: 'absolute', width: '100%', height: '100%', opacity: rough }} />
          )}
          {skin > 0 &&
            (page.neighbours ?? []).map((n, i) => (
              <img
                key={n}
                src={picture(n)}
                alt=""
                draggable={false}
                style={{
                  position: 'absolute',
                  width: '100%',
                  height: '100%',
                  opacity: skin,
                  mixBlendMode: 'multiply',
                  filter: `sepia(1) hue-rotate(${i ? 60 : 260}deg) saturate(4)`,
                }}
              />
            ))}
          {page.drawing && <ReturnedMarks id={page.drawing} />}
        </TrialSheet>
        <div style={{ flex: '0 0 216px' }} className="tight">
          {page.drawing && <ReturnedNotes id={page.drawing} />}
          <div className="card-plain mb-2">
            <h2>Under the ink</h2>
            <label className="d-block">
              rough {rough ? `${(100 * rough).toFixed(0)} %` : 'hidden'}
              <input
                type="range"
                className="w-100"
                min="0"
                max="1"
                step="0.05"
                value={rough}
                disabled={!page.rough}
                onChange={(e) => setRough(Number(e.target.value))}
              />
            </label>
            <label className="d-block">
              neighbours {page.neighbours?.length ? `${(100 * skin).toFixed(0)} %` : 'none'}
              <input
                type="range"
                className="w-100"
                min="0"
                max="0.6"
                step="0.05"
                value={skin}
                disabled={!page.neighbours?.length}
                onChange={(e) => setSkin(Number(e.target.value))}
              />
            </label>
            {may && (
              <label className="btn-word" style={{ cursor: 'pointer' }}>
                Add a neighbouring drawing…
                <input
                  type="file"
                  accept="image/png,image/jpeg"
                  className="visually-hidden"
                  aria-label="add a neighbouring drawing"
                  onChange={async (e) => {
                    const file = e.target.files?.[0];
                    e.target.value = '';
                    if (!file) return;
                    try {
                      const got = await sendFiles<Schemas['RoughView']>(`/api/v1/productions/${production.id}/roughs`, [file]);
                      setPage((now) => now && { ...now, neighbours: [...(now.neighbours ?? []), got.sha256].slice(-2) });
                    } catch (x) {
                      setError(x);
                    }
                  }}
                />
              </label>
            )}
            <div className="soft">Nothing here can be drawn on: ink goes on passes of its own.</div>
          </div>
          {pointing && (
            <div className="card-plain mb-2">
              <h2>{chosen.size === 1 ? '1 stroke chosen' : `${chosen.size} strokes chosen`}</h2>
              {one ? (
                <>
                  <div className="d-flex flex-wrap gap-3">
                    <button
                      type="button"
                      className="btn-word"
                      onClick={() => {
                        put(strokes.filter((_, i) => !chosen.has(i)));
                        setChosen(new Set());
                      }}
                    >
                      Remove strokes
                    </button>
                    <button
                      type="button"
                      className="btn-word"
                      onClick={() => edit((s) => ({ samples: nulls(put_right(new Float64Array(samplesOf(s)), 'reversed')) }))}
                    >
                      Reverse strokes
                    </button>
                  </div>
                  <div className="figure-row">
                    <span>weight factor</span>
                    <b>
                      <Figure
                        value={one.weight_factor ?? 1}
                        digits={2}
                        label="weight factor of the strokes"
                        onValue={(v) => edit(() => ({ weight_factor: Math.min(20, Math.max(0.05, v)) }))}
                      />{' '}
                      ×
                    </b>
                  </div>
                  <select
                    className="form-select form-select-sm tight"
                    aria-label="brush of the strokes"
                    value={one.brush_id}
                    onChange={(e) => edit(() => ({ brush_id: e.target.value, version: rack.data?.find((b) => b.id === e.target.value)?.current_version ?? 1 }))}
                  >
                    {rack.data?.map((b) => (
                      <option key={b.id} value={b.id}>
                        {b.name}
                      </option>
                    ))}
                  </select>
                  <select
                    className="form-select form-select-sm tight mt-1"
                    aria-label="version of the strokes"
                    value={one.version}
                    onChange={(e) => edit((s) => (s.brush_id === one.brush_id ? { version: Number(e.target.value) } : {}))}
                  >
                    {brushes[one.brush_id]?.versions.map((v) => (
                      <option key={v.version} value={v.version}>
                        version {v.version}
                      </option>
                    ))}
                  </select>
                  <div className="soft">Drag to pull a line: the pull falls off over {REACH_MM} mm.</div>
                </>
              ) : (
                <p className="soft mb-0">Point at a stroke; with shift, at several.</p>
              )}
            </div>
          )}
          {newer.length > 0 && may && (
            <div className="card-plain mb-2">
              <p className="mb-1">
                {newer.length === 1 ? '1 stroke was' : `${newer.length} strokes were`} inked with another version than the current one, and{' '}
                {newer.length === 1 ? 'stays' : 'stay'} so.
              </p>
              <button type="button" className="btn-word" onClick={() => reInk(() => true)}>
                Ink all again with the current
              </button>
              {chosen.size > 0 && (
                <button type="button" className="btn-word d-block" onClick={() => reInk((i) => chosen.has(i))}>
                  Only the chosen ones
                </button>
              )}
            </div>
          )}
          <div className="card-plain mb-2">
            <h2>Passes</h2>
            {roles.map((r) => (
              <label key={r} className="d-block">
                <input
                  type="checkbox"
                  checked={!hidden.has(r)}
                  onChange={(e) => {
                    const to = new Set(hidden);
                    if (e.target.checked) to.delete(r);
                    else to.add(r);
                    setHidden(to);
                  }}
                />{' '}
                {r} <span className="soft">{strokes.filter((s) => s.role === r).length}</span>
              </label>
            ))}
            <label className="d-block">
              <input type="checkbox" checked={hard} onChange={(e) => setHard(e.target.checked)} /> hard pixels when enlarged
            </label>
            <label className="d-block">
              <input type="checkbox" checked={grid} onChange={(e) => setGrid(e.target.checked)} /> pixel grid{' '}
              {zoom < 4 && <span className="soft">(from 4×)</span>}
            </label>
          </div>
          {strokes.length > 0 && <TakeOut id={id} out={out} />}
          <Link to="/brushes/trials">All trial pages</Link>
        </div>
      </div>
    </div>
  );
}

/** The page taken elsewhere; what merging costs or saves is said where it is asked for. */
function TakeOut({ id, out }: { id: string; out: (kind: string) => string }) {
  const { production } = useOpen();
  const [asked, setAsked] = useState(false);
  const sizes = useQuery({
    queryKey: ['trial-sizes', id, asked],
    enabled: asked,
    staleTime: 0,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/trials/{id}/sizes', { params: { path: { production: production.id, id } } })),
  });
  const kib = (b: number) => `${(b / 1024).toFixed(0)} KiB`;
  return (
    <div className="card-plain mb-2">
      <h2>Download</h2>
      <div className="d-flex flex-wrap gap-2">
        <a href={out('svg')}>SVG</a>
        <a href={out('merged.svg')}>SVG, merged</a>
        <a href={out('png')}>PNG</a>
        <a href={out('hard.png')}>PNG, hard</a>
        <a href={out('ora')}>OpenRaster</a>
        <a href={out('inkml')}>InkML</a>
      </div>
      {sizes.data ? (
        <div className="soft">
          each stroke for itself {kib(sizes.data.strokes_bytes)}; merged into one outline a pass {kib(sizes.data.merged_bytes)}
        </div>
      ) : (
        <button type="button" className="btn-word" onClick={() => setAsked(true)}>
          Show file sizes
        </button>
      )}
    </div>
  );
}
