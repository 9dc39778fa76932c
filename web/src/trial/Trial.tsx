// A trial page: ink over a rough with the brushes of the roll, by line role, and see the weight against the guide while drawing.
import { useCallback, useMemo, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useParams, useSearchParams } from 'react-router';
import { pull, put_right } from '../../engine/prebuilt/eddymist_wasm';
import type { Samples } from '../engine/engine';
import { Sheet, type SheetHandle } from '../engine/Sheet';
import { ViewBar } from '../engine/ViewBar';
import type { View } from '../engine/view';
import { inkOf, StrokePoints } from '../lanes/StrokePoints';
import { Conflict } from '../parts/Conflict';
import { useKeys } from '../parts/keys';
import { useGuides } from '../parts/lists';
import { ThroughTablet, useMyTablet } from '../parts/myTablet';
import { matched } from '../parts/screen';
import { Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { InkSketch } from './InkSketch';
import { ReturnedNotes, useReturnedMarks } from './Returned';
import { REACH_MM, type Stroke } from './steps';
import { TrialBar } from './TrialBar';
import { TrialSide } from './TrialSide';
import { samplesOf, useInk } from './useInk';
import { usePage } from './usePage';
import { usePictures } from './usePictures';
import { judged, Tag, useWeight, Verdict } from './weight';

const nulls = (s: ArrayLike<number>) => Array.from(s, (v) => (Number.isFinite(v) ? v : null));
const NOTHING: Set<number> = new Set();

export function Trial() {
  const { id = '' } = useParams();
  return <TrialOf key={id} id={id} />;
}

function TrialOf({ id }: { id: string }) {
  const { production } = useOpen();
  const may = useMayChange();
  const base = `/api/v1/productions/${production.id}`;
  const w = usePage(production.id, id);
  const { page, strokes } = w;
  const tablet = useMyTablet();
  const guides = useGuides();
  const [role, setRole] = useState('');
  // The brush in hand stands in the address: from the bench and back it is the same, and a reload keeps it.
  const [search, setSearch] = useSearchParams();
  const other = search.get('brush') ?? '';
  const setOther = (brush: string) => setSearch(brush ? { brush } : {}, { replace: true });
  const [pointing, setPointing] = useState(false);
  const [edge, setEdge] = useState<'' | 'straight' | 'arc'>('');
  const [chosen, setChosen] = useState<Set<number>>(NOTHING);
  const [hidden, setHidden] = useState<Set<string>>(new Set());
  const [rough, setRough] = useState(0.45);
  const [shows, setShows] = useState({ previous: true, next: true });
  const [grid, setGrid] = useState(false);
  const [delivered, setDelivered] = useState(false);
  const [seen, setSeen] = useState<View | null>(null);
  const sheet = useRef<SheetHandle>(null);
  const weight = useWeight();
  const pxPerMm = page?.px_per_mm ?? 6;
  const ink = useInk(production.id, strokes, tablet.response, pxPerMm, role, other);
  const { current, engine, drawnOf } = ink;
  const beneath = usePictures(base, page?.rough, page?.neighbours);
  const marks = useReturnedMarks(page?.drawing);

  // Of the strokes that are shown: where each stands among all.
  const shown = useMemo(() => {
    const out: { at: number; drawn: NonNullable<ReturnType<typeof drawnOf>> }[] = [];
    strokes.forEach((s, at) => {
      const drawn = hidden.has(s.role) ? null : drawnOf(s);
      if (drawn) out.push({ at, drawn });
    });
    return out;
  }, [strokes, hidden, drawnOf]);
  const drawn = useMemo(() => shown.map((s) => s.drawn), [shown]);

  const only = pointing && chosen.size === 1 ? shown.find((s) => chosen.has(s.at)) : undefined;

  const { undo, redo, putStrokes } = w;
  const go = (act: () => void) => () => {
    act();
    setChosen(NOTHING);
  };
  const remove = go(() => putStrokes(strokes.filter((_, i) => !chosen.has(i))));
  useKeys({ undo: go(undo), redo: go(redo), delete: chosen.size ? remove : undefined });
  const under = useCallback(
    (c: CanvasRenderingContext2D, size: [number, number]) => {
      if (beneath.rough && rough > 0) {
        c.globalAlpha = rough;
        c.drawImage(beneath.rough, 0, 0, ...size);
      }
      c.globalCompositeOperation = 'multiply';
      beneath.neighbours.forEach((image, i) => {
        // The previous drawing at half strength, the next at a third.
        c.globalAlpha = i === 0 ? 0.5 : 1 / 3;
        if (i === 0 ? shows.previous : shows.next) c.drawImage(image, 0, 0, ...size);
      });
      c.globalAlpha = 1;
      c.globalCompositeOperation = 'source-over';
    },
    [beneath, rough, shows],
  );
  const over = useCallback(
    (c: CanvasRenderingContext2D, size: [number, number]) => {
      marks?.(c, size);
      c.strokeStyle = '#0f5a5f';
      c.lineWidth = 2 / (seen?.scale ?? 4);
      for (const { at, drawn: d } of shown) {
        if (!pointing || !chosen.has(at)) continue;
        c.beginPath();
        for (let k = 0; k + 2 < d.samples.length; k += 6) c.lineTo(d.samples[k + 1] ?? 0, d.samples[k + 2] ?? 0);
        c.stroke();
      }
      if (!grid || (seen?.scale ?? 0) < 4 * pxPerMm) return;
      c.strokeStyle = 'rgba(0, 0, 0, 0.14)';
      c.lineWidth = 0.02;
      c.beginPath();
      for (let x = 0; x <= size[0]; x += 1 / pxPerMm) [c.moveTo(x, 0), c.lineTo(x, size[1])];
      for (let y = 0; y <= size[1]; y += 1 / pxPerMm) [c.moveTo(0, y), c.lineTo(size[0], y)];
      c.stroke();
    },
    [marks, shown, pointing, chosen, grid, pxPerMm, seen?.scale],
  );

  if (w.view.isLoading || !page)
    return w.view.error ? (
      <div className="page">
        <Problem error={w.view.error} />
      </div>
    ) : (
      <Loading what="the trial page" />
    );
  const guide = guides.data?.[0]?.guide;
  // The guide's px are its page's; the trial page may be of another size.
  const goal = judged(guide, current?.role, page.width_px);
  const tell = (samples: Samples) => engine && weight.set(engine.weight(new Float64Array(samples), samples.zoom ?? 1) * pxPerMm);
  /** What the edge in hand makes of a stroke. */
  const right = (samples: Samples): Samples => Object.assign(Array.from(put_right(new Float64Array(samples), edge)), { zoom: samples.zoom });
  const edit = (how: (s: Stroke) => Partial<Stroke>) => putStrokes(strokes.map((s, i) => (chosen.has(i) ? { ...s, ...how(s) } : s)));
  return (
    <div className="page trial">
      <Head
        title={w.view.data?.name}
        says={
          <>
            {page.width_px} × {page.height_px} px, {pxPerMm} px to the mm · {strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`} ·{' '}
            {w.saved ? 'Saved' : <b style={{ color: 'var(--warn)' }}>Saving…</b>}
          </>
        }
        state={
          <span className="tight">
            <Verdict weight={weight} goal={goal} role={current?.role} />
          </span>
        }
      >
        <div className="d-flex gap-2">
          {current && (
            <Link className="btn btn-paper" to={`/brushes/${current.brush}`} title="the brush in hand, on its bench">
              Bench
            </Link>
          )}
          <Button variant="paper" disabled={!w.canUndo} onClick={undo}>
            Undo
          </Button>
          <Button variant="paper" disabled={!w.canRedo} onClick={redo}>
            Redo
          </Button>
        </div>
      </Head>
      <Problem error={w.error ?? ink.rack.error ?? ink.roll.error} />
      {w.theirs && (
        <Conflict
          what="this trial page"
          keep="Save mine"
          mine={<InkSketch page={page} />}
          theirs={<InkSketch page={w.theirs.page} />}
          onMine={w.keepMine}
          onTheirs={w.useTheirs}
        />
      )}
      <TrialBar ink={ink} pointing={pointing} setPointing={setPointing} edge={edge} setEdge={setEdge} other={other} setOther={setOther} onRole={setRole}>
        <ThroughTablet />
        <ViewBar sheet={sheet} view={seen} whole={pxPerMm / window.devicePixelRatio} trueScale={matched()} page />
      </TrialBar>
      <div className="d-flex gap-2">
        <div className="trial-scroll">
          <Sheet
            ref={sheet}
            label="trial page"
            height="100%"
            page={[page.width_px / pxPerMm, page.height_px / pxPerMm]}
            strokes={drawn}
            engine={may ? engine : null}
            colour={current?.colour ?? '#000'}
            // A stroke may begin before its brush has come: it is inked when that is there.
            tool={pointing && may ? 'point' : may && current && ink.ready && tablet.read ? 'ink' : 'look'}
            under={under}
            over={over}
            delivered={delivered ? pxPerMm : null}
            right={edge ? right : undefined}
            tag={<Tag weight={weight} goal={goal} />}
            onView={setSeen}
            onLive={tell}
            onErase={may ? (which) => putStrokes(strokes.filter((_, i) => !which.some((k) => shown[k]?.at === i))) : undefined}
            onStroke={(samples) => {
              if (!current || !may) return;
              const put = edge ? right(samples) : samples;
              tell(put);
              putStrokes([
                ...strokes,
                {
                  samples: nulls(put),
                  zoom: samples.zoom,
                  brush_id: current.brush,
                  version: current.version,
                  role: current.role,
                  colour: current.colour,
                  weight_factor: current.factor,
                  response: tablet.response as [number, number][],
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
          />
          {only && seen && may && (
            <StrokePoints
              key={only.at}
              view={seen}
              ink={inkOf(only.drawn.engine, only.drawn.samples.zoom ?? 1, !strokes[only.at]?.course)}
              samples={only.drawn.samples}
              colour={only.drawn.colour}
              onChange={(to) => edit(() => ({ samples: nulls(to) }))}
            />
          )}
        </div>
        <div style={{ flex: '0 0 216px' }} className="tight">
          {page.drawing && <ReturnedNotes id={page.drawing} page={id} />}
          <TrialSide
            id={id}
            page={page}
            ink={ink}
            chosen={pointing ? chosen : null}
            rough={rough}
            setRough={setRough}
            shows={shows}
            setShows={setShows}
            hidden={hidden}
            setHidden={setHidden}
            grid={grid}
            setGrid={setGrid}
            delivered={delivered}
            setDelivered={setDelivered}
            onNeighbours={(neighbours) => w.change({ neighbours })}
            onError={w.setError}
            onStrokes={putStrokes}
            onEdit={edit}
            onRemove={remove}
          />
        </div>
      </div>
    </div>
  );
}
