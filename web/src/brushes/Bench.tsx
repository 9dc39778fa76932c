// The bench: pen, brush and difference over one ruler, the parts as cards, the try lane always under them.

import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { type Engine, loadEngine, makeEngine, type Samples } from '../engine/engine';
import { CurveEditor } from '../lanes/CurveEditor';
import { Conflict } from '../parts/Conflict';
import { usePens } from '../parts/lists';
import { Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { NibCard, PaceCard, PoolingCard, TaperCard } from './BenchCards';
import { BenchLanes, type Exercise } from './BenchLanes';
import { Card, type Part, VERDICT } from './Card';
import { EdgeCard, OpacityCard, SmoothingCard } from './InkCards';
import { StrokeCard } from './StrokeCard';
import { TryLane } from './TryLane';
import { changes, useBrush } from './useBrush';
import { VersionThread } from './VersionThread';

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
const NAMES: Record<Part, string> = { ...(Object.fromEntries(PARTS) as Record<Part, string>), steadiness: 'steadiness' };

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
  const [exercise, setExercise] = useState<Exercise | null>(null);
  const [strokes, setStrokes] = useState<Samples[]>([]);
  const [engine, setEngine] = useState<Engine | null>(null);
  const [cannot, setCannot] = useState('');
  const [under, setUnder] = useState<number | null>(null);
  const [distortion, setDistortion] = useState<number | null>(null);
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
    queryKey: ['bench', id, brush, effort, exercise, under],
    enabled: !!brush && !!view.data,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(api.POST('/api/v1/productions/{production}/brushes/{id}/bench', { params, body: { brush: brush as Schemas['Brush'], effort, exercise, under } })),
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
  const card = { brush, change, preview: (b: Schemas['Brush']) => w.change(b, false), may, match };
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
                matched to <Link to={`/pens/${v.pen.id}`}>{v.pen.name}</Link>
              </>
            ) : (
              'matched to no pen'
            )}
            {v.profile ? (
              <>
                {' '}
                · through <Link to={`/tablets/${v.profile.id}`}>{v.profile.name}</Link>
              </>
            ) : (
              ' · no tablet profile: raw pressure is taken as effort'
            )}
            {w.unsaved ? (
              <b style={{ color: 'var(--warn)' }}> · changed since version {w.began ?? v.current_version}, not saved</b>
            ) : (
              ` · version ${v.current_version}`
            )}
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
            <Button variant="paper" disabled={fitting} onClick={() => fitAgain([...PARTS.map((p) => p[0]).filter((p) => !locked.includes(p)), 'steadiness'])}>
              {fitting ? 'Matching…' : locked.length ? 'Match unlocked parts' : 'Match all parts'}
            </Button>
          )}
          <Button disabled={!w.unsaved || !may || !!w.clash} onClick={() => w.save(changes(w.saved, brush))}>
            Save as version {Math.max(...v.versions.map((x) => x.version)) + 1}
          </Button>
        </div>
      </Head>
      <nav className="tight d-flex gap-3 mb-2" aria-label="this brush">
        <Link to={`/brushes/proof?show=${id}@${v.current_version}`}>Proof sheet</Link>
        <Link to={`/brushes/paths?brush=${id}`}>Ink over paths</Link>
        {v.pen && v.profile && <Link to={`/brushes/${id}/blind`}>Blind proof</Link>}
        {v.pen && <Link to={`/brushes/${id}/recipe`}>Recipe for another program</Link>}
      </nav>
      <Problem error={w.error ?? bench.error} />
      {w.clash && (
        <Conflict
          what="this brush"
          by={w.clash.theirs.by}
          mine={<div className="tight">{changes(w.saved, brush)}</div>}
          theirs={
            <div className="tight">
              version {w.clash.theirs.version}: {changes(w.saved, w.clash.theirs.brush)}
            </div>
          }
          onMine={w.clash.mine}
          onTheirs={w.clash.use}
        />
      )}
      {cannot && <div className="notice">{cannot}</div>}
      <BenchLanes
        bench={bench.data}
        colour={brush.colour ?? '#000'}
        effort={effort}
        exercise={exercise}
        under={under}
        onPick={(to, e) => {
          setExercise(to);
          if (e !== undefined) setEffort(e);
        }}
        aside={
          <VersionThread
            view={v}
            changed={w.unsaved ? changes(w.saved, brush) : null}
            under={under}
            may={may}
            onUnder={setUnder}
            onGoBack={w.goBack}
            onCopy={copy}
          />
        }
      />
      {steady && steady !== worst && (
        <div className="tight mb-1">
          <b>Steadiness: {VERDICT[steady.verdict]}</b> <span className="soft">{steady.says}</span>
        </div>
      )}
      <div style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(232px, 1fr))', gridAutoFlow: 'dense', gap: 9 }} className="mb-2">
        {order.map((p) => cards[p])}
        <SmoothingCard {...card} trade={bench.data?.smoothing} />
        <StrokeCard {...card} distortion={distortion} />
        <OpacityCard {...card} />
      </div>
      <TryLane id={id} brush={brush} response={response} engine={engine} strokes={strokes} onStrokes={setStrokes} onDistortion={setDistortion} />
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
