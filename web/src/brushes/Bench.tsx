// The bench: pen, brush and difference over one ruler, the parts as cards, the try lane always under them.

import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import type { Samples } from '../engine/engine';
import { useEngine } from '../engine/useEngine';
import { CurveEditor } from '../lanes/CurveEditor';
import { Assumed } from '../parts/Assumed';
import { Conflict } from '../parts/Conflict';
import { useKeys } from '../parts/keys';
import { useLasting } from '../parts/lasting';
import { usePens } from '../parts/lists';
import { useMyTablet } from '../parts/myTablet';
import { Head, Loading, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useMayChange, useOpen } from '../session';
import { BenchLanes, type Exercise } from './BenchLanes';
import { Card, FigureRow, type Part, VERDICT } from './Card';
import { EdgeCard, OpacityCard, SmoothingCard } from './InkCards';
import { NibCard } from './NibCard';
import { PaceCard, PoolingCard } from './PaceCards';
import { NAMES, type Open, PartTiles } from './PartTiles';
import { StrokeCard } from './StrokeCard';
import { TaperCard } from './TaperCard';
import { TryLane } from './TryLane';
import { changes, useBrush } from './useBrush';
import { VersionThread } from './VersionThread';

/** Parts that can be matched to a pen. */
const PARTS: Exclude<Part, 'steadiness' | 'smoothing'>[] = ['weight', 'nib', 'pace', 'pooling', 'lead-in', 'lead-out', 'edge'];
const STEADY = 'The last match left it as it was: more smoothing would bring your lines no nearer to the pen’s.';
const REST: Open[] = ['smoothing', 'stroke', 'opacity'];

const NO_STROKES: Samples[] = [];

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
  const saving = useWork();
  const pens = usePens();
  const [effort, setEffort] = useState(0.5);
  const [exercise, setExercise] = useState<Exercise | null>(null);
  const [strokes, setStrokes] = useLasting<Samples[]>(`try-${id}`, NO_STROKES);
  const [under, setUnder] = useState<number | null>(null);
  const [distortion, setDistortion] = useState<number | null>(null);
  const [locked, setLocked] = useState<Part[]>([]);
  const [fitting, setFitting] = useState(false);
  const [smoothed, setSmoothed] = useState<string | null>(null);
  const arranged = useRef<Open[] | null>(null);
  const [open, setOpen] = useState<Open | null>(null);
  const { brush, view } = w;
  const params = { path: { production: production.id, id } };
  // Whoever made the brush: ink goes through the tablet of whoever draws.
  const tablet = useMyTablet();
  const { response } = tablet;
  const profile = tablet.profile?.id ?? null;
  const { engine, cannot } = useEngine(brush, response);
  const penId = view.data?.pen?.id ?? '';
  const pen = useQuery({
    queryKey: ['pen', penId],
    enabled: !!penId,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/pens/{id}', { params: { path: { production: production.id, id: penId } } })),
  });

  const bench = useQuery({
    queryKey: ['bench', id, brush, effort, exercise, under, profile],
    enabled: !!brush && !!view.data && tablet.read,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(
        api.POST('/api/v1/productions/{production}/brushes/{id}/bench', {
          params,
          body: { brush: brush as Schemas['Brush'], effort, exercise, under, profile },
        }),
      ).then((found) => ({ ...found, exercise })),
  });

  useKeys({ undo: w.undo, redo: w.redo });

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
  const change = (b: Schemas['Brush']) => w.change(b);
  const fitAgain = async (which: Part[]) => {
    setFitting(true);
    try {
      const found = await take(api.POST('/api/v1/productions/{production}/brushes/{id}/bench', { params, body: { brush, effort, fit: which, profile } }));
      if (found.found) w.change(found.found.brush);
      if (which.includes('smoothing')) setSmoothed(found.found?.smoothing?.says ?? (found.smoothing ? STEADY : null));
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
    refused: w.refused,
  };
  const card = { brush, change, preview: (b: Schemas['Brush']) => w.change(b, false), may, match };
  const copy = (version: number) =>
    saving.work('copying', async () => {
      const made = await take(
        api.POST('/api/v1/productions/{production}/brushes', {
          params: { path: { production: production.id } },
          body: { name: `${brush.name}, copy`, copy_of: id, copy_version: version },
        }),
      );
      await client.invalidateQueries({ queryKey: ['brushes'] });
      navigate(`/brushes/${made.id}`);
    });
  const penKnots = pens.data?.find((p) => p.id === v.pen?.id)?.card.widths_by_effort?.map((x) => [x.effort, x.width_mm]);

  const steady = parts.find((p) => p.part === 'steadiness');
  const strip = pen.data?.card.strip_png;
  // The worst first, as they were when the page was opened: nothing may jump away under the hand.
  if (!arranged.current && parts.length) {
    const seen = parts.flatMap((p) => (p.part === 'steadiness' || p.part === 'smoothing' ? [] : [p.part]));
    arranged.current = [...seen, ...PARTS.filter((p) => !seen.includes(p)), ...REST];
  }
  const order = arranged.current ?? [...PARTS, ...REST];
  const shown = open ?? order[0] ?? 'weight';
  const part = {
    weight: () => (
      <Card title="Weight curve" part="weight" match={match} may={may} whole>
        {engine && <CurveEditor knots={brush.weight} pen={penKnots} disabled={!may} onChange={(knots, done) => w.change({ ...brush, weight: knots }, done)} />}
        <FigureRow
          name="never narrower than, tapers apart"
          unit="mm"
          value={brush.floor_mm ?? 0}
          digits={3}
          label="least width in mm"
          range={[0, 100]}
          disabled={!may}
          onValue={(v) => change({ ...brush, floor_mm: v })}
        />
      </Card>
    ),
    nib: () => <NibCard {...card} />,
    pace: () => <PaceCard {...card} />,
    pooling: () => <PoolingCard {...card} />,
    'lead-in': () => <TaperCard key="in" {...card} side="lead_in" />,
    'lead-out': () => <TaperCard key="out" {...card} side="lead_out" />,
    edge: () => <EdgeCard {...card} strip={strip} />,
    smoothing: () => <SmoothingCard {...card} trade={bench.data?.smoothing} matched={smoothed} />,
    stroke: () => <StrokeCard {...card} distortion={distortion} />,
    opacity: () => <OpacityCard {...card} />,
  } satisfies Record<Open, () => React.ReactNode>;

  return (
    <div className="page bench">
      <Head
        title={brush.name}
        rename={{ name: brush.name, label: 'the brush', may, onName: (name) => change({ ...brush, name }) }}
        says={
          <>
            {w.unsaved ? (
              <b style={{ color: 'var(--warn)' }}>changed since version {w.began ?? v.current_version}, not saved</b>
            ) : (
              `version ${v.current_version}`
            )}
            {' · '}
            {v.pen ? (
              <>
                matched to <Link to={`/pens/${v.pen.id}`}>{v.pen.name}</Link>
              </>
            ) : (
              'matched to no pen'
            )}
            {v.profile && (
              <>
                {' '}
                through <Link to={`/tablets/${v.profile.id}`}>{v.profile.name}</Link>
              </>
            )}
          </>
        }
        state={
          worst ? (
            <>
              <b>
                {NAMES[worst.part]}: {VERDICT[worst.verdict]}
              </b>
              <div className="soft" title={worst.says}>
                {worst.says}
              </div>
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
            <Button
              variant="paper"
              disabled={fitting}
              onClick={() => fitAgain([...[...PARTS, 'smoothing' as const].filter((p) => !locked.includes(p)), 'steadiness'])}
            >
              {fitting ? 'Matching…' : locked.length ? 'Match unlocked parts' : 'Match all parts'}
            </Button>
          )}
          <Button
            disabled={!w.unsaved || !may || !!w.clash || !!saving.busy}
            onClick={() => saving.work('saving', async () => void (await w.save(changes(w.saved, brush))))}
          >
            Save as version {Math.max(...v.versions.map((x) => x.version)) + 1}
          </Button>
        </div>
      </Head>
      <Problem error={saving.error ?? w.error ?? bench.error} />
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
        through={tablet.profile ? `yours on the ${tablet.profile.tablet}` : (v.profile?.name ?? null)}
        colour={brush.colour ?? '#000'}
        effort={effort}
        exercise={exercise}
        under={under}
        onPick={(to, e) => {
          setExercise(to);
          if (e !== undefined) setEffort(e);
        }}
        foot={
          <nav className="tight d-flex gap-3 ms-auto" aria-label="this brush">
            <Link to={`/brushes/proof?show=${id}@${v.current_version}`}>Proof sheet</Link>
            <Link to={`/brushes/trials?brush=${id}`}>Trial page</Link>
            <Link to={`/brushes/paths?brush=${id}`}>Paths</Link>
            {v.pen && v.profile && <Link to={`/brushes/${id}/blind`}>Blind proof</Link>}
            {v.pen && <Link to={`/brushes/${id}/recipe`}>Recipe</Link>}
          </nav>
        }
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
      <div className="bench-parts">
        <div>
          <PartTiles brush={brush} order={order} open={shown} match={match} onOpen={setOpen} />
          {steady && (
            <p className="tight mb-0 mt-1">
              <b>Steadiness: {VERDICT[steady.verdict]}</b> <span className="soft">{steady.says}</span>
            </p>
          )}
        </div>
        {part[shown]()}
      </div>
      <TryLane id={id} brush={brush} response={response} engine={engine} strokes={strokes} onStrokes={setStrokes} onDistortion={setDistortion} />
      <Assumed sentences={bench.data?.found?.assumed ?? []} />
    </div>
  );
}
