// Ink over paths: the lines of an SVG inked with a brush; which lines, and how each is inked, is chosen here and seen at once.
import { useMutation, useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { useSearchParams } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { loadEngine, PathEngine } from '../engine/engine';
import { Figure } from '../parts/Figure';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { CourseOnLine } from './CourseOnLine';

type Way = { course: string; reversed: boolean; factor: number };
type Line = Schemas['PathLine'] & Way;

const COURSES = [
  ['even', 'even: one weight'],
  ['swell', 'swell: full in the middle'],
  ['rise', 'rise: full at the end'],
  ['fall', 'fall: full at the start'],
] as const;
/** The named courses at five places along the line, as `contracts` has them: where one's own begins. */
const NAMED: Record<string, number[]> = {
  even: [0.5, 0.5, 0.5, 0.5, 0.5],
  swell: [0, 0.71, 1, 0.71, 0],
  rise: [0, 0.25, 0.5, 0.75, 1],
  fall: [1, 0.75, 0.5, 0.25, 0],
};
const knots = (efforts: number[]) => JSON.stringify(efforts.map((e, i) => [i / (efforts.length - 1), e]));
/** Of thousands of lines, ink is made for so many at a time between what else the page has to do. */
const BATCH = 150;

export function Paths() {
  const { production } = useOpen();
  const [search, setSearch] = useSearchParams();
  const rack = useQuery({
    queryKey: ['brushes', production.id],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes', { params: { path: { production: production.id } } })),
  });
  const brush = rack.data?.find((b) => b.id === search.get('brush')) ?? rack.data?.[0];
  const [name, setName] = useState('');
  const [view, setView] = useState<Schemas['PathsView'] | null>(null);
  const [past, setPast] = useState<Line[][]>([]);
  const [lines, setLines] = useState<Line[]>([]);
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const [adding, setAdding] = useState<'new' | 'add' | 'take'>('new');
  const [scale, setScale] = useState(1);
  const [weightScales, setWeightScales] = useState(false);
  const [ink, setInk] = useState<Path2D[]>([]);
  const [took, setTook] = useState<number | null>(null);
  const [box, setBox] = useState<[number, number, number, number] | null>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const work = useRef(0);
  const cache = useRef<Map<string, Path2D>>(new Map());
  const bring = useMutation({
    mutationFn: (file: File) => sendFiles<Schemas['PathsView']>(`/api/v1/productions/${production.id}/paths`, [file]),
    onSuccess: (v, file) => {
      setName(file.name);
      setView(v);
      setLines(v.lines.map((l) => ({ ...l, course: 'swell', reversed: false, factor: 1 })));
      setChosen(new Set());
      setPast([]);
      setInk([]);
      setTook(null);
      cache.current.clear();
    },
  });

  // Ink follows every change; lines whose way did not change keep theirs.
  const document_ = useMemo(() => (brush ? JSON.stringify(brush.brush) : ''), [brush]);
  const inkAll = useCallback(async () => {
    await loadEngine();
    const run = ++work.current;
    const engines = new Map<string, PathEngine>();
    const begun = performance.now();
    const out: Path2D[] = [];
    for (let i = 0; i < lines.length; i++) {
      const l = lines[i];
      if (!l) continue;
      const factor = l.factor * (weightScales ? scale : 1);
      const key = `${i}|${l.course}|${l.reversed}|${factor}|${scale}|${brush?.id}@${brush?.current_version}`;
      let d = cache.current.get(key);
      if (!d) {
        const by = `${l.course}|${factor}`;
        let engine = engines.get(by);
        if (!engine) {
          engine = new PathEngine(document_, l.course, factor);
          engines.set(by, engine);
        }
        d = new Path2D(engine.ink(new Float64Array(l.points.flat()), l.reversed, scale, 0.02));
        cache.current.set(key, d);
      }
      out.push(d);
      if (i % BATCH === BATCH - 1) {
        // The page is let through; work that was overtaken by a newer change ends.
        await new Promise((r) => setTimeout(r, 0));
        if (run !== work.current) return;
      }
    }
    for (const e of engines.values()) e.free();
    setInk(out);
    setTook(performance.now() - begun);
  }, [lines, scale, weightScales, document_, brush]);
  useEffect(() => {
    if (lines.length && document_) inkAll();
  }, [inkAll, lines, document_]);

  /** Changes how the chosen lines are inked; a pull is one step back, however many changes it makes on its way. */
  const pulled = useRef(false);
  const set = (v: Partial<Way>, done = true) => {
    if (!pulled.current) setPast([...past.slice(-50), lines]);
    pulled.current = !done;
    setLines(lines.map((l, i) => (chosen.has(i) ? { ...l, ...v } : l)));
  };
  const undo = () => {
    setLines(past[past.length - 1] ?? lines);
    setPast(past.slice(0, -1));
  };
  const choose = (which: number[]) => {
    const next = new Set(adding === 'new' ? [] : chosen);
    for (const i of which) adding === 'take' ? next.delete(i) : next.add(i);
    setChosen(next);
  };
  const by = (key: 'colour' | 'layer') => [...new Set(lines.map((l) => l[key]))];
  const of = (f: (l: Line) => boolean) => choose(lines.flatMap((l, i) => (f(l) ? [i] : [])));
  const picked = lines.filter((_, i) => chosen.has(i));
  const one = picked[0];
  const own = one?.course.startsWith('[') ? (JSON.parse(one.course) as [number, number][]).map((k) => k[1]) : null;
  const efforts = own ?? (one ? NAMED[one.course] : null);
  const [l, t, r, b] = view?.bounds ?? [0, 0, 100, 60];
  const margin = 3;
  const [wide, high] = [(r ?? 0) - (l ?? 0) + 2 * margin, (b ?? 0) - (t ?? 0) + 2 * margin];
  /** Where on the picture, in its own mm, a pointer is. */
  const place = (e: { clientX: number; clientY: number }): [number, number] => {
    const rect = canvas.current?.getBoundingClientRect();
    if (!rect) return [0, 0];
    return [((e.clientX - rect.left) / rect.width) * wide + (l ?? 0) - margin, ((e.clientY - rect.top) / rect.height) * high + (t ?? 0) - margin];
  };
  useEffect(() => {
    const el = canvas.current;
    const c = el?.getContext('2d');
    if (!el || !c) return;
    el.width = Math.round(el.clientWidth * window.devicePixelRatio);
    el.height = Math.round(el.clientHeight * window.devicePixelRatio);
    // The picture is fitted to the page whatever its scale: its ink is laid at the scale.
    const k = el.width / wide;
    c.setTransform(k / scale, 0, 0, k / scale, -((l ?? 0) - margin) * k, -((t ?? 0) - margin) * k);
    c.fillStyle = brush?.brush.colour ?? '#000';
    for (const d of ink) c.fill(d);
    c.setTransform(k, 0, 0, k, -((l ?? 0) - margin) * k, -((t ?? 0) - margin) * k);
    c.strokeStyle = getComputedStyle(el).getPropertyValue('--eddy');
    c.lineWidth = (1.6 * window.devicePixelRatio) / k;
    for (const i of chosen) {
      c.beginPath();
      for (const [x = 0, y = 0] of lines[i]?.points ?? []) c.lineTo(x, y);
      c.stroke();
    }
    if (box) {
      c.setLineDash([4 / k, 4 / k]);
      c.strokeRect(box[0], box[1], box[2] - box[0], box[3] - box[1]);
      c.setLineDash([]);
    }
  }, [ink, chosen, box, lines, brush, scale, l, t, wide]);
  const release = (e: React.PointerEvent) => {
    if (!box) return;
    const to = place(e);
    const [l, t, r, b] = [Math.min(box[0], to[0]), Math.min(box[1], to[1]), Math.max(box[0], to[0]), Math.max(box[1], to[1])];
    setBox(null);
    if (r - l > 1 || b - t > 1) {
      of((line) => line.points.every(([x = 0, y = 0]) => x >= l && x <= r && y >= t && y <= b));
      return;
    }
    let best = { d: 4, i: -1 };
    lines.forEach((line, i) => {
      for (const [x = 0, y = 0] of line.points) {
        const d = Math.hypot(x - to[0], y - to[1]);
        if (d < best.d) best = { d, i };
      }
    });
    choose(best.i >= 0 ? [best.i] : []);
  };
  const out = useMutation({
    mutationFn: async (kind: 'svg' | 'inkml') => {
      const response = await fetch(`/api/v1/productions/${production.id}/paths/${kind}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({
          brush_id: brush?.id,
          version: brush?.current_version,
          scale,
          weight_scales: weightScales,
          lines: lines.map((l) => ({ points: l.points, course: l.course, reversed: l.reversed, weight_factor: l.factor })),
        }),
      });
      if (!response.ok) throw new Error(((await response.json()) as { detail?: string }).detail ?? 'The lines could not be inked.');
      const a = document.createElement('a');
      a.href = URL.createObjectURL(await response.blob());
      a.download = `${name.replace(/\.svg$/i, '')}-inked.${kind}`;
      a.click();
      URL.revokeObjectURL(a.href);
    },
  });
  if (rack.isLoading) return <Loading what="the rack" />;
  return (
    <div className="page">
      <Head
        title={view ? `${lines.length} lines of ${name}` : 'Ink over paths'}
        says={
          view
            ? `${chosen.size ? `${chosen.size} chosen` : 'none chosen: point at lines, draw a box round them, or choose by colour, layer or length'}${view.in_mm ? '' : ' · the file states no size: 96 px to the inch were taken'}${took !== null ? ` · inked in ${(took / 1000).toFixed(2)} s` : ''}`
            : 'lines drawn elsewhere, inked with a brush of the rack'
        }
      >
        {view && (
          <div className="d-flex gap-2">
            <Button variant="paper" disabled={!past.length} onClick={undo}>
              Undo
            </Button>
            <Button variant="paper" disabled={out.isPending} onClick={() => out.mutate('inkml')}>
              Strokes (InkML)
            </Button>
            <Button disabled={out.isPending} onClick={() => out.mutate('svg')}>
              Outlines (SVG)
            </Button>
          </div>
        )}
      </Head>
      <Problem error={rack.error ?? bring.error ?? out.error} />
      <div className="d-flex gap-3 mb-2 align-items-end flex-wrap tight">
        <label>
          brush
          <select className="form-select form-select-sm" value={brush?.id ?? ''} onChange={(e) => setSearch({ brush: e.target.value }, { replace: true })}>
            {rack.data?.map((x) => (
              <option key={x.id} value={x.id}>
                {x.name}, version {x.current_version}
              </option>
            ))}
          </select>
        </label>
        <label>
          lines (SVG)
          <input
            type="file"
            accept=".svg,image/svg+xml"
            className="form-control form-control-sm"
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) bring.mutate(file);
            }}
          />
        </label>
        {view && (
          <>
            <span>
              scale <Figure value={scale} digits={2} label="scale of the picture" onValue={(v) => setScale(Math.min(100, Math.max(0.01, v)))} /> ×
            </span>
            <label>
              <input type="checkbox" checked={weightScales} onChange={(e) => setWeightScales(e.target.checked)} /> weight grows with it
            </label>
          </>
        )}
      </div>
      {!view && !bring.isPending && (
        <Empty title="No lines yet">
          Bring in an SVG: every path in it becomes a stroke. Text, clipped parts and pictures are left out; nothing outside the file is read.
        </Empty>
      )}
      {bring.isPending && <Loading what="the lines" />}
      {view && (
        <div className="d-flex gap-2">
          <div style={{ flex: 1, minWidth: 0 }}>
            <div style={{ position: 'relative', width: `min(100%, calc((100vh - 250px) * ${wide / high}))` }}>
              <canvas
                ref={canvas}
                style={{
                  width: '100%',
                  aspectRatio: `${wide} / ${high}`,
                  background: 'var(--paper)',
                  border: '1px solid var(--hairline)',
                  touchAction: 'none',
                  cursor: 'crosshair',
                  display: 'block',
                }}
                role="img"
                aria-label="the lines as inked; chosen ones have their pressure drawn over them"
                onPointerDown={(e) => {
                  const p = place(e);
                  setBox([p[0], p[1], p[0], p[1]]);
                  e.currentTarget.setPointerCapture(e.pointerId);
                }}
                onPointerMove={(e) => {
                  if (box) {
                    const p = place(e);
                    setBox([box[0], box[1], p[0], p[1]]);
                  }
                }}
                onPointerUp={release}
              />
              {one && efforts && (
                <CourseOnLine
                  points={one.points}
                  efforts={efforts}
                  box={[(l ?? 0) - margin, (t ?? 0) - margin, wide, high]}
                  onChange={(next, done) => set({ course: knots(next) }, done)}
                />
              )}
            </div>
          </div>
          <div style={{ flex: '0 0 250px' }} className="tight">
            <div className="card-plain mb-2">
              <h2>Choose</h2>
              <div className="tabs mb-1" role="group" aria-label="what choosing does">
                {(
                  [
                    ['new', 'anew'],
                    ['add', 'add to it'],
                    ['take', 'take from it'],
                  ] as const
                ).map(([k, word]) => (
                  <button key={k} type="button" aria-pressed={adding === k} onClick={() => setAdding(k)}>
                    {word}
                  </button>
                ))}
              </div>
              <div className="d-flex gap-3">
                <button type="button" className="btn-word" onClick={() => of(() => true)}>
                  All
                </button>
                <button type="button" className="btn-word" onClick={() => setChosen(new Set(lines.flatMap((_, i) => (chosen.has(i) ? [] : [i]))))}>
                  The others
                </button>
                <button type="button" className="btn-word" onClick={() => setChosen(new Set())}>
                  None
                </button>
              </div>
              {(['colour', 'layer'] as const).map((key) => (
                <select
                  key={key}
                  className="form-select form-select-sm tight mt-1"
                  aria-label={`choose by ${key}`}
                  value=""
                  onChange={(e) => of((x) => x[key] === e.target.value.slice(1))}
                >
                  <option value="">by {key}…</option>
                  {by(key).map((v) => (
                    <option key={v} value={`:${v}`}>
                      {v || `no ${key}`} ({lines.filter((x) => x[key] === v).length})
                    </option>
                  ))}
                </select>
              ))}
              <div className="mt-1">
                <button type="button" className="btn-word" onClick={() => of((x) => x.length_mm >= 20)}>
                  20 mm and longer
                </button>
                {' · '}
                <button type="button" className="btn-word" onClick={() => of((x) => x.length_mm < 20)}>
                  shorter
                </button>
              </div>
            </div>
            <div className="card-plain">
              <h2>How they are inked</h2>
              {one ? (
                <>
                  <label className="d-block">
                    pressure along the line
                    <select
                      className="form-select form-select-sm tight"
                      value={own ? 'own' : one.course}
                      onChange={(e) => set({ course: e.target.value === 'own' ? knots(efforts ?? []) : e.target.value })}
                    >
                      {COURSES.map(([v, word]) => (
                        <option key={v} value={v}>
                          {word}
                        </option>
                      ))}
                      <option value="own">custom</option>
                    </select>
                  </label>
                  <div className="figure-row">
                    <span>weight factor</span>
                    <b>
                      <Figure value={one.factor} digits={2} label="weight factor" onValue={(v) => set({ factor: Math.min(20, Math.max(0.05, v)) })} /> ×
                    </b>
                  </div>
                  <button
                    type="button"
                    className="btn-word"
                    onClick={() => {
                      setPast([...past.slice(-50), lines]);
                      setLines(lines.map((x, i) => (chosen.has(i) ? { ...x, reversed: !x.reversed } : x)));
                    }}
                  >
                    Reverse lines
                  </button>
                  <p className="soft mb-0">
                    Drag the pressure on the first chosen line; the other chosen lines follow. Longer lines taper more where the brush’s tapers take a share of
                    the stroke.
                  </p>
                </>
              ) : (
                <p className="soft mb-0">Choose lines first. Every line begins as a swell.</p>
              )}
            </div>
          </div>
        </div>
      )}
    </div>
  );
}
