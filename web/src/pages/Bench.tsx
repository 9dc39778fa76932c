// The bench: pen, brush and difference over one ruler, the parts as cards, the try lane always under them.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
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
import { Card, NibCard, PaceCard, type Part, PoolingCard, TaperCard, VERDICT } from './BenchCards';
import { EdgeCard, OpacityCard, SmoothingCard } from './InkCards';
import { usePens } from './Pens';
import { changes, useBrush } from './useBrush';

/** Parts that can be fitted to a pen, and what they are called. */
const PARTS: [Part, string][] = [
  ['weight', 'weight'],
  ['nib', 'nib'],
  ['pace', 'pace'],
  ['pooling', 'pooling'],
  ['lead-in', 'lead-in'],
  ['lead-out', 'lead-out'],
  ['edge', 'edge'],
];
const EXERCISE = { flick: 'flick out, tip on tip', ramp: 'ramp' } as const;
const NAMES: Record<Part, string> = { ...(Object.fromEntries(PARTS) as Record<Part, string>), steadiness: 'steadiness' };

/** The simulated hand's try strokes: a swell, a hook and hatching. */
const SIMULATED: Samples[] = [
  Array.from({ length: 160 }, (_, i) => ({ u: i / 159 })).flatMap(({ u }) => [
    u * 1200,
    14 + u * 84,
    18 - 12 * Math.sin(u * 6.2),
    0.12 + 0.8 * Math.sin(Math.PI * u) ** 2,
    Number.NaN,
    Number.NaN,
  ]),
  Array.from({ length: 120 }, (_, i) => ({ u: i / 119 })).flatMap(({ u }) => [
    u * 800,
    118 + 34 * u + 6 * Math.sin(u * 9),
    25 - 17 * u + 6 * Math.sin(u * 5),
    0.9 - 0.75 * u,
    Number.NaN,
    Number.NaN,
  ]),
  ...Array.from({ length: 8 }, (_, k) =>
    Array.from({ length: 40 }, (_, i) => ({ u: i / 39 })).flatMap(({ u }) => [
      u * 160,
      172 + 5 * k + 9 * u,
      31 - 26 * u,
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
  const [exercise, setExercise] = useState<Schemas['LaneExercise'] | null>(null);
  const [strokes, setStrokes] = useState<Samples[]>([]);
  const [engine, setEngine] = useState<Engine | null>(null);
  const [cannot, setCannot] = useState('');
  const [locked, setLocked] = useState<Part[]>([]);
  const [fitting, setFitting] = useState(false);
  const arranged = useRef<Part[] | null>(null);
  const { brush, view } = w;
  const params = { path: { production: production.id, id } };
  const response = view.data?.response;
  const penId = view.data?.pen?.id ?? '';
  const pen = useQuery({
    queryKey: ['pen', penId],
    enabled: !!penId,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/pens/{id}', { params: { path: { production: production.id, id: penId } } })),
  });

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
    queryKey: ['bench', id, brush, effort, exercise],
    enabled: !!brush && !!view.data,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(api.POST('/api/v1/productions/{production}/brushes/{id}/bench', { params, body: { brush: brush as Schemas['Brush'], effort, exercise } })),
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
  const parts = bench.data?.found?.parts ?? [];
  const worst = parts[0];
  const weight = parts.find((p) => p.part === 'weight');
  const change = (b: Schemas['Brush']) => w.change(b);
  const fitAgain = async (which: Part[]) => {
    setFitting(true);
    try {
      const found = await take(api.POST('/api/v1/productions/{production}/brushes/{id}/bench', { params, body: { brush, effort, fit: which } }));
      if (found.found) w.change(found.found.brush);
    } catch (e) {
      w.setError(e);
    }
    setFitting(false);
  };
  const match = {
    parts,
    locked,
    onLock: (p: Part) => setLocked(locked.includes(p) ? locked.filter((x) => x !== p) : [...locked, p]),
    onFit: v.pen ? (p: Part) => void fitAgain([p]) : undefined,
  };
  const card = { brush, change, may, match };
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
      [
        [difference[0]?.[0] ?? 0, 0],
        ...difference.map((d) => [d[0] ?? 0, Math.max(0, side * (d[1] ?? 0)) * side]),
        [difference[difference.length - 1]?.[0] ?? 0, 0],
      ],
      (s) => s * X,
      y,
      true,
    );
  const penKnots = pens.data?.find((p) => p.id === v.pen?.id)?.card.widths_by_effort?.map((x) => [x.effort, x.width_mm]);

  const steady = parts.find((p) => p.part === 'steadiness');
  const strip = pen.data?.card.strip_png;
  const cards: Record<Part, React.ReactNode> = {
    weight: (
      <Card key="weight" title="Weight curve" part="weight" match={match} may={may} style={{ gridColumn: 'span 2' }}>
        <div className="soft tight">
          effort → width in mm{penKnots ? '; rings: the pen' : ''}
          {weight?.difference != null && Math.abs(weight.difference) >= 0.05
            ? ` · ${Math.abs(weight.difference).toFixed(1)} ${weight.unit} ${weight.difference < 0 ? 'thin' : 'heavy'}`
            : ''}
        </div>
        {engine && <CurveEditor knots={brush.weight} pen={penKnots} disabled={!may} onChange={(knots, done) => w.change({ ...brush, weight: knots }, done)} />}
      </Card>
    ),
    nib: <NibCard key="nib" {...card} />,
    pace: <PaceCard key="pace" {...card} />,
    pooling: <PoolingCard key="pooling" {...card} />,
    'lead-in': <TaperCard key="lead-in" {...card} side="lead_in" />,
    'lead-out': <TaperCard key="lead-out" {...card} side="lead_out" />,
    edge: <EdgeCard key="edge" {...card} strip={strip} />,
    steadiness: null,
  };
  // The worst first, as they were when the page was opened: nothing may jump away under the hand.
  if (!arranged.current && parts.length) {
    const seen: Part[] = parts.map((p) => p.part).filter((p) => p !== 'steadiness');
    arranged.current = [...seen, ...PARTS.map((p) => p[0]).filter((p) => !seen.includes(p))];
  }
  const order = arranged.current ?? PARTS.map((p) => p[0]);

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
          worst ? (
            <>
              <b>
                {NAMES[worst.part].charAt(0).toUpperCase() + NAMES[worst.part].slice(1)}: {VERDICT[worst.verdict]}
              </b>
              <div className="soft">{worst.says}</div>
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
          {v.pen && may && (
            <Button variant="paper" disabled={fitting} onClick={() => fitAgain(PARTS.map((p) => p[0]).filter((p) => !locked.includes(p)))}>
              {fitting ? 'Fitting…' : locked.length ? 'Fit what is not locked' : 'Fit all to the pen'}
            </Button>
          )}
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
                  {exercise ? EXERCISE[exercise] : `${effortName(bench.data?.effort ?? effort)} effort`}
                  <br />
                  {lane.pen_mm.toFixed(3)} mm
                </>
              ) : exercise ? (
                'its sheet shows none'
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
                  {exercise ? 'the hand’s, inked' : 'same effort, inked'}
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
        <span className="soft tight me-3">in the lanes: lines of</span>
        {EFFORTS.map(([e, name]) => (
          <button
            key={e}
            type="button"
            aria-pressed={!exercise && effort === e}
            onClick={() => {
              setEffort(e);
              setExercise(null);
            }}
          >
            {name}
          </button>
        ))}
        <span className="soft tight mx-3">effort, or</span>
        {(['flick', 'ramp'] as const).map((e) => (
          <button key={e} type="button" aria-pressed={exercise === e} onClick={() => setExercise(e)}>
            {e === 'flick' ? 'a flick out' : 'a ramp'}
          </button>
        ))}
      </div>
      {steady && steady !== worst && (
        <div className="tight mb-1">
          <b>Steadiness: {VERDICT[steady.verdict]}</b> <span className="soft">{steady.says}</span>
        </div>
      )}
      <div style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(232px, 1fr))', gridAutoFlow: 'dense', gap: 9 }} className="mb-2">
        {order.map((p) => cards[p])}
        <SmoothingCard {...card} trade={bench.data?.smoothing} />
        <OpacityCard {...card} />
      </div>
      <div className="lanes" style={{ position: 'sticky', bottom: 0, zIndex: 5, boxShadow: '0 -6px 12px -10px rgb(0 0 0 / 40%)' }}>
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
            height={132}
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
