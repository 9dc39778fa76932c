// The bench: pen, brush and difference over one ruler, the parts as cards, the try lane always under them.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { type Engine, loadEngine, makeEngine, type Samples } from '../engine/engine';
import { Surface } from '../engine/Surface';
import { CurveEditor } from '../lanes/CurveEditor';
import { Lane, pathOf, Ruler } from '../lanes/Lane';
import { EFFORTS, effortName } from '../lanes/LinesTable';
import { day, Head, Loading, Problem } from '../lanes/states';
import { useMayChange, useOpen } from '../session';
import { NibCard, SmoothingCard, TaperCard } from './BenchCards';
import { usePens } from './Pens';
import { changes, useBrush } from './useBrush';

const VERDICT = { alike: 'alike', differs: 'differs', 'too-few': 'too few lines to say', 'cannot-be-matched': 'cannot be matched' } as const;

/** The simulated hand's try strokes: a swell, a hook and hatching. */
const SIMULATED: Samples[] = [
  Array.from({ length: 160 }, (_, i) => ({ u: i / 159 })).flatMap(({ u }) => [
    u * 1200,
    14 + u * 84,
    24 - 13 * Math.sin(u * 6.2),
    0.12 + 0.8 * Math.sin(Math.PI * u) ** 2,
    Number.NaN,
    Number.NaN,
  ]),
  Array.from({ length: 120 }, (_, i) => ({ u: i / 119 })).flatMap(({ u }) => [
    u * 800,
    118 + 34 * u + 6 * Math.sin(u * 9),
    34 - 26 * u + 9 * Math.sin(u * 5),
    0.9 - 0.75 * u,
    Number.NaN,
    Number.NaN,
  ]),
  ...Array.from({ length: 8 }, (_, k) =>
    Array.from({ length: 40 }, (_, i) => ({ u: i / 39 })).flatMap(({ u }) => [
      u * 160,
      172 + 5 * k + 9 * u,
      38 - 28 * u,
      0.6 * (1 - u) + 0.1,
      Number.NaN,
      Number.NaN,
    ]),
  ),
];

/** Another brush is another bench: nothing of the last one's work may show on it. */
export function Bench() {
  const { id = '' } = useParams();
  return <BenchOf key={id} id={id} />;
}

function BenchOf({ id }: { id: string }) {
  const { production } = useOpen();
  const may = useMayChange();
  const navigate = useNavigate();
  const client = useQueryClient();
  const w = useBrush(production.id, id);
  const pens = usePens();
  const [effort, setEffort] = useState(0.5);
  const [strokes, setStrokes] = useState<Samples[]>([]);
  const [engine, setEngine] = useState<Engine | null>(null);
  const [cannot, setCannot] = useState('');
  const { brush, view } = w;
  const params = { path: { production: production.id, id } };
  const response = view.data?.response;

  useEffect(() => {
    if (!brush) return;
    let mine: Engine | null = null;
    loadEngine().then(() => {
      try {
        mine = makeEngine(brush, response);
        setEngine(mine);
        setCannot('');
      } catch (e) {
        setCannot(e instanceof Error ? e.message : String(e));
      }
    });
  }, [brush, response]);

  const bench = useQuery({
    queryKey: ['bench', id, brush, effort],
    enabled: !!brush && !!view.data,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () => take(api.POST('/api/v1/productions/{production}/brushes/{id}/bench', { params, body: { brush: brush as Schemas['Brush'], effort } })),
  });

  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== 'z' || (e.target as HTMLElement).tagName === 'INPUT') return;
      e.preventDefault();
      if (e.shiftKey) w.redo();
      else w.undo();
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  });

  if (view.isLoading || !brush)
    return view.error ? (
      <div className="page">
        <Problem error={view.error} />
      </div>
    ) : (
      <Loading what="the bench" />
    );
  const v = view.data as Schemas['BrushView'];
  const lane = bench.data?.lane;
  const part = bench.data?.found?.parts[0];
  const change = (b: Schemas['Brush']) => w.change(b);
  const fitAgain = async () => {
    try {
      const found = await take(api.POST('/api/v1/productions/{production}/brushes/{id}/bench', { params, body: { brush, effort, fit: true } }));
      if (found.found) w.change(found.found.brush);
    } catch (e) {
      w.setError(e);
    }
  };
  const copy = async (version: number) => {
    try {
      const made = await take(
        api.POST('/api/v1/productions/{production}/brushes', {
          params: { path: { production: production.id } },
          body: { name: `${brush.name}, copy`, copy_of: id, copy_version: version },
        }),
      );
      await client.invalidateQueries({ queryKey: ['brushes'] });
      navigate(`/brushes/${made.id}`);
    } catch (e) {
      w.setError(e);
    }
  };
  const length = Math.max(lane?.length_mm ?? 60, 1);
  const X = 1000 / length;
  const shapes = [...(lane?.pen ?? []), ...(lane?.brush ?? [])];
  const tall = Math.max(0.7, ...shapes.map((p) => Math.abs(p[1] ?? 0))) * 1.35;
  const shape = (points: number[][], fill: string) => (
    <svg viewBox={`0 ${-tall} 1000 ${2 * tall}`} preserveAspectRatio="none" style={{ height: 58 }} aria-hidden>
      <path
        d={pathOf(
          points,
          (s) => s * X,
          (s) => s,
          true,
        )}
        fill={fill}
      />
    </svg>
  );
  const difference = lane?.difference ?? [];
  const spread = bench.data?.spread_um ?? null;
  // Ends run far out of any band: the lane is scaled to what lies between them.
  const sizes = difference.map((d) => Math.abs(d[1] ?? 0)).sort((a, b) => a - b);
  const most = Math.max(20, spread ? spread * 1.6 : 0, sizes[Math.floor(sizes.length * 0.85)] ?? 0) * 1.15;
  const y = (um: number) => 34 - Math.max(-33, Math.min(33, (um / most) * 32));
  const area = (side: 1 | -1) =>
    pathOf(
      [[0, 0], ...difference.map((d) => [d[0] ?? 0, Math.max(0, side * (d[1] ?? 0)) * side]), [difference[difference.length - 1]?.[0] ?? 0, 0]],
      (s) => s * X,
      y,
      true,
    );
  const penKnots = pens.data?.find((p) => p.id === v.pen?.id)?.card.widths_by_effort?.map((x) => [x.effort, x.width_mm]);

  return (
    <div className="page">
      <Head
        title={brush.name}
        says={
          <>
            {v.pen ? (
              <>
                held against <Link to={`/pens/${v.pen.id}`}>{v.pen.name}</Link>
              </>
            ) : (
              'held against no pen'
            )}
            {v.profile ? (
              <>
                {' '}
                · through <Link to={`/tablets/${v.profile.id}`}>{v.profile.name}</Link>
              </>
            ) : (
              ' · no tablet profile: raw pressure is taken as effort'
            )}
            {w.unsaved ? <b style={{ color: 'var(--warn)' }}> · changed since version {v.current_version}, not saved</b> : ` · version ${v.current_version}`}
          </>
        }
        state={
          part ? (
            <>
              <b>Weight: {VERDICT[part.verdict]}</b>
              <div className="soft">{part.says}</div>
            </>
          ) : undefined
        }
      >
        <div className="d-flex gap-2">
          <Button variant="paper" disabled={!w.canUndo} onClick={w.undo}>
            Undo
          </Button>
          <Button variant="paper" disabled={!w.canRedo} onClick={w.redo}>
            Redo
          </Button>
          <Button disabled={!w.unsaved || !may} onClick={() => w.save(changes(w.saved, brush))}>
            Save (adds version {Math.max(...v.versions.map((x) => x.version)) + 1})
          </Button>
        </div>
      </Head>
      <Problem error={w.error ?? bench.error} />
      {cannot && <div className="notice">{cannot}</div>}
      <div className="lanes" style={{ display: 'grid', gridTemplateColumns: '1fr 210px' }}>
        <div style={{ minWidth: 0 }}>
          <Ruler length={length} unit="mm along the line" />
          <Lane
            name="Pen"
            says={
              lane?.pen.length ? (
                <>
                  {effortName(bench.data?.effort ?? effort)} effort
                  <br />
                  {lane.pen_mm.toFixed(3)} mm
                </>
              ) : (
                'no line at this effort'
              )
            }
            tint="#f4efe4"
          >
            {shape(lane?.pen ?? [], '#26232a')}
          </Lane>
          <Lane
            name="Brush"
            says={
              lane?.brush.length ? (
                <>
                  same effort, inked
                  <br />
                  {lane.brush_mm.toFixed(3)} mm
                </>
              ) : (
                'no stroke of a hand: warm up on a tablet'
              )
            }
          >
            {shape(lane?.brush ?? [], brush.colour ?? '#000')}
          </Lane>
          <Lane
            name="Difference"
            says={
              <>
                brush − pen, µm
                {spread ? (
                  <>
                    <br />
                    band: pen’s spread
                  </>
                ) : null}
              </>
            }
          >
            <svg viewBox="0 0 1000 68" preserveAspectRatio="none" style={{ height: 68 }} aria-hidden>
              {spread && (
                <rect x="0" width="1000" y={y(spread)} height={y(-spread) - y(spread)} fill="var(--band)" stroke="var(--band-edge)" strokeDasharray="4 3" />
              )}
              <path d={area(1)} fill="var(--heavy)" opacity="0.85" />
              <path d={area(-1)} fill="var(--thin)" opacity="0.85" />
              <line x1="0" x2="1000" y1="34" y2="34" stroke="var(--ink-soft)" />
            </svg>
            <span className="tight heavy" style={{ position: 'absolute', left: 6, top: 0, fontSize: '0.78rem' }}>
              heavier
            </span>
            <span className="tight thin" style={{ position: 'absolute', left: 6, bottom: 0, fontSize: '0.78rem' }}>
              thinner
            </span>
            <span className="tight soft" style={{ position: 'absolute', right: 6, top: 0, fontSize: '0.78rem' }}>
              +{most.toFixed(0)} µm
            </span>
          </Lane>
        </div>
        <div style={{ borderLeft: '1px solid var(--hairline)', maxHeight: 276, overflowY: 'auto' }}>
          <div className="tight soft px-3 pt-2">Versions</div>
          <ul className="thread">
            {w.unsaved && (
              <li className="unsaved">
                <b>unsaved</b>
                <div className="soft small">{changes(w.saved, brush)}</div>
              </li>
            )}
            {v.versions.map((x) => (
              <li key={x.version} className={x.version === v.current_version ? 'current' : ''}>
                <b>{x.version}</b> <span className="soft small">{x.says}</span>
                <div className="soft small">
                  {x.by}, {day(x.at)}
                </div>
                {may && (
                  <div className="d-flex gap-3 small">
                    {x.version !== v.current_version && (
                      <button type="button" className="btn-word" onClick={() => w.goBack(x.version)}>
                        Go back to it
                      </button>
                    )}
                    <button type="button" className="btn-word" onClick={() => copy(x.version)}>
                      Start another
                    </button>
                  </div>
                )}
              </li>
            ))}
          </ul>
        </div>
      </div>
      <div className="tabs my-2" role="group" aria-label="effort shown in the lanes">
        <span className="soft tight me-3">effort in the lanes</span>
        {EFFORTS.map(([e, name]) => (
          <button key={e} type="button" aria-pressed={effort === e} onClick={() => setEffort(e)}>
            {name}
          </button>
        ))}
      </div>
      <div style={{ display: 'grid', gridTemplateColumns: 'minmax(330px, 1.5fr) repeat(4, minmax(170px, 1fr))', gap: 9 }} className="mb-2">
        <div className="card-plain">
          <div className="d-flex justify-content-between">
            <h2>Weight curve</h2>
            <span className="tight soft">
              {part ? VERDICT[part.verdict] : 'no pen'}
              {part?.difference != null && Math.abs(part.difference) >= 0.05
                ? ` · ${Math.abs(part.difference).toFixed(1)} ${part.unit} ${part.difference < 0 ? 'thin' : 'heavy'}`
                : ''}
            </span>
          </div>
          <div className="soft tight">effort → width in mm{penKnots ? '; rings: the pen' : ''}</div>
          {engine && <CurveEditor knots={brush.weight} pen={penKnots} disabled={!may} onChange={(weight, done) => w.change({ ...brush, weight }, done)} />}
          {v.pen && may && (
            <button type="button" className="btn-word mt-1" onClick={fitAgain}>
              Fit again
            </button>
          )}
        </div>
        <TaperCard brush={brush} change={change} may={may} side="lead_in" />
        <TaperCard brush={brush} change={change} may={may} side="lead_out" />
        <NibCard brush={brush} change={change} may={may} />
        <SmoothingCard brush={brush} change={change} may={may} />
      </div>
      <div className="lanes">
        <Lane
          name="Try it here"
          says={
            <>
              stylus, mouse or
              <br />
              <button type="button" className="btn-word" onClick={() => setStrokes([...strokes, ...SIMULATED])}>
                simulated hand
              </button>
              <br />
              <button type="button" className="btn-word" disabled={!strokes.length} onClick={() => setStrokes(strokes.slice(0, -1))}>
                Take out the last
              </button>
              <br />
              96 px to the inch
            </>
          }
        >
          <Surface
            height={160}
            engine={engine}
            strokes={strokes}
            onStroke={(s) => setStrokes([...strokes, s])}
            colour={brush.colour ?? '#000'}
            label="try lane"
          />
        </Lane>
      </div>
      {(bench.data?.found?.assumed.length ?? 0) > 0 && (
        <details className="soft tight mt-2">
          <summary>What was assumed</summary>
          <ul className="mb-0">
            {bench.data?.found?.assumed.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
