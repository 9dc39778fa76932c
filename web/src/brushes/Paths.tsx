// Ink over paths: the lines of an SVG inked with brushes; which lines, and how each is inked, is chosen here and seen at once.
import { useMutation } from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { useSearchParams } from 'react-router';
import { type Schemas, sendFiles } from '../api/client';
import { Sheet, type SheetHandle } from '../engine/Sheet';
import { ViewBar } from '../engine/ViewBar';
import type { Point, View } from '../engine/view';
import { Figure } from '../parts/Figure';
import { useKeys } from '../parts/keys';
import { useRack } from '../parts/lists';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { CourseOnLine } from './CourseOnLine';
import { LinePoints } from './LinePoints';
import { effortsOf, knots, PathCards } from './PathCards';
import { usePathInk } from './usePathInk';
import { placesOf, usePaths } from './usePaths';

const NO_STROKES: never[] = [];
/** Px to a mm at which a picture's mm are the screen's. */
const WHOLE = 96 / 25.4;

export function Paths() {
  const { production } = useOpen();
  const [search, setSearch] = useSearchParams();
  const rack = useRack(production.id);
  const brush = rack.data?.find((b) => b.id === search.get('brush')) ?? rack.data?.[0];
  const w = usePaths();
  const { view, lines, chosen, scale } = w;
  const [adding, setAdding] = useState<'new' | 'add' | 'take'>('new');
  const [nudging, setNudging] = useState(false);
  const [seen, setSeen] = useState<View | null>(null);
  const sheet = useRef<SheetHandle>(null);
  const { ink, took } = usePathInk(lines, rack.data, scale, w.weightScales);
  const bring = useMutation({
    mutationFn: (file: File) => sendFiles<Schemas['PathsView']>(`/api/v1/productions/${production.id}/paths`, [file]),
    onSuccess: (v, file) => w.open(file.name, v, brush?.id ?? ''),
  });
  useKeys({ undo: w.undo, redo: w.redo });
  const choose = (which: number[]) => {
    const next = new Set(adding === 'new' ? [] : chosen);
    for (const i of which) adding === 'take' ? next.delete(i) : next.add(i);
    w.setChosen(next);
  };
  const one = w.picked[0];
  const efforts = one ? effortsOf(one.course) : null;
  const under = useCallback(
    (c: CanvasRenderingContext2D) => {
      // The picture is seen as it came, whatever its scale: its ink is laid at the scale.
      c.save();
      c.scale(1 / scale, 1 / scale);
      for (const l of ink) {
        c.fillStyle = l.colour;
        c.fill(l.path);
      }
      c.restore();
    },
    [ink, scale],
  );
  const over = useCallback(
    (c: CanvasRenderingContext2D) => {
      c.strokeStyle = '#0f6a70';
      c.lineWidth = 1.6 / (seen?.scale ?? WHOLE);
      for (const i of chosen) {
        c.beginPath();
        for (const [x = 0, y = 0] of lines[i] ? placesOf(lines[i]) : []) c.lineTo(x, y);
        c.stroke();
      }
    },
    [chosen, lines, seen?.scale],
  );
  const pick = (to: Point) => {
    let best = { d: Math.max(1, 8 / (seen?.scale ?? WHOLE)), i: -1 };
    lines.forEach((line, i) => {
      for (const [x = 0, y = 0] of placesOf(line)) {
        const d = Math.hypot(x - to[0], y - to[1]);
        if (d < best.d) best = { d, i };
      }
    });
    choose(best.i >= 0 ? [best.i] : []);
  };
  const box = (a: Point, b: Point) => {
    const [l, t, r, m] = [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])];
    choose(lines.flatMap((line, i) => (placesOf(line).every(([x = 0, y = 0]) => x >= l && x <= r && y >= t && y <= m) ? [i] : [])));
  };
  const out = useMutation({
    mutationFn: async (kind: 'svg' | 'inkml') => {
      const ids = [...new Set(lines.map((l) => rack.data?.find((b) => b.id === l.brush)?.id ?? brush?.id ?? ''))];
      const response = await fetch(`/api/v1/productions/${production.id}/paths/${kind}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({
          brushes: ids.map((id) => ({ brush_id: id, version: rack.data?.find((b) => b.id === id)?.current_version ?? 1 })),
          scale,
          weight_scales: w.weightScales,
          page_mm: view?.page_mm,
          lines: lines.map((l) => ({
            points: placesOf(l),
            course: l.course,
            reversed: l.reversed,
            weight_factor: l.factor,
            tapers: l.tapers,
            brush: Math.max(0, ids.indexOf(l.brush)),
            layer: l.layer,
            name: l.name,
            colour: l.colour,
          })),
        }),
      });
      if (!response.ok) throw new Error(((await response.json()) as { detail?: string }).detail ?? 'The lines could not be inked.');
      const a = document.createElement('a');
      a.href = URL.createObjectURL(await response.blob());
      a.download = `${w.name.replace(/\.svg$/i, '')}-inked.${kind}`;
      a.click();
      URL.revokeObjectURL(a.href);
    },
  });
  if (rack.isLoading) return <Loading what="the rack" />;
  const [pageW = 100, pageH = 60] = view?.page_mm ?? [];
  const says = [
    chosen.size ? `${chosen.size} chosen` : 'none chosen: point at lines, draw a box round them, or choose by colour, layer or length',
    view?.in_mm ? '' : 'the file states no size: 96 px to the inch were taken',
    took !== null ? `inked in ${(took / 1000).toFixed(2)} s` : '',
  ];
  return (
    <div className="page">
      <Head
        title={view ? `${lines.length} lines of ${w.name}` : 'Ink over paths'}
        says={view ? says.filter(Boolean).join(' · ') : 'lines drawn elsewhere, inked with brushes of the rack'}
      >
        {view && (
          <div className="d-flex gap-2">
            <Button variant="paper" disabled={!w.canUndo} onClick={w.undo}>
              Undo
            </Button>
            <Button variant="paper" disabled={!w.canRedo} onClick={w.redo}>
              Redo
            </Button>
            <Button variant="paper" disabled={out.isPending} onClick={() => out.mutate('inkml')}>
              Download strokes (InkML)
            </Button>
            <Button disabled={out.isPending} onClick={() => out.mutate('svg')}>
              Download outlines (SVG)
            </Button>
          </div>
        )}
      </Head>
      <Problem error={rack.error ?? bring.error ?? out.error} />
      <div className="d-flex gap-3 mb-2 align-items-end flex-wrap tight">
        {!view && (
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
        )}
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
              scale <Figure value={scale} digits={2} label="scale of the picture" range={[0.01, 100]} onValue={w.setScale} /> ×
            </span>
            <label>
              <input type="checkbox" checked={w.weightScales} onChange={(e) => w.setWeightScales(e.target.checked)} /> weight grows with the scale
            </label>
            <ViewBar sheet={sheet} view={seen} whole={WHOLE} />
          </>
        )}
      </div>
      {!view && !bring.isPending && (
        <Empty title="No lines yet">
          Import an SVG: every path in it becomes a stroke. Text, clipped parts and pictures are left out; nothing outside the file is read.
        </Empty>
      )}
      {bring.isPending && <Loading what="the lines" />}
      {view && (
        <div className="d-flex gap-2">
          <div className="trial-scroll" style={{ position: 'relative', overflow: 'hidden' }}>
            <Sheet
              ref={sheet}
              label="lines as inked; chosen ones have their pressure drawn over them"
              height="100%"
              page={[pageW, pageH]}
              strokes={NO_STROKES}
              engine={null}
              tool="point"
              under={under}
              over={over}
              onStroke={() => undefined}
              onPoint={pick}
              onPull={box}
              onView={setSeen}
            />
            {one && nudging && seen && chosen.size === 1 && (
              <LinePoints
                key={[...chosen][0]}
                view={seen}
                line={one}
                brush={(rack.data?.find((b) => b.id === one.brush) ?? brush)?.brush}
                scale={scale}
                weightScales={w.weightScales}
                onChange={(nudged) => w.set({ nudged })}
              />
            )}
            {one && !(nudging && chosen.size === 1) && efforts && seen && !seen.mirror && Math.abs(seen.turn) < 1e-6 && (
              <div style={{ position: 'absolute', left: seen.x, top: seen.y, width: pageW * seen.scale, height: pageH * seen.scale, pointerEvents: 'none' }}>
                <CourseOnLine
                  points={placesOf(one)}
                  efforts={efforts}
                  box={[0, 0, pageW, pageH]}
                  onChange={(next, done) => w.set({ course: knots(next) }, done)}
                />
              </div>
            )}
          </div>
          <PathCards work={w} rack={rack.data ?? []} adding={adding} setAdding={setAdding} nudging={nudging} setNudging={setNudging} onChoose={choose} />
        </div>
      )}
    </div>
  );
}
