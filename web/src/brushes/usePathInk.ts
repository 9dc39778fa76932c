// The ink of an SVG's lines: it follows every change; lines whose way did not change keep theirs.
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Schemas } from '../api/client';
import { loadEngine, PathEngine, taperKey } from '../engine/engine';
import { type Line, placesOf } from './usePaths';

export type InkedLine = { path: Path2D; colour: string };
/** Of thousands of lines, ink is made for so many at a time between what else the page has to do. */
const BATCH = 150;

export function usePathInk(lines: Line[], rack: Schemas['BrushSummary'][] | undefined, scale: number, weightScales: boolean) {
  const [ink, setInk] = useState<InkedLine[]>([]);
  const [took, setTook] = useState<number | null>(null);
  const work = useRef(0);
  const cache = useRef<Map<string, Path2D>>(new Map());
  const nudged = useRef(new WeakMap<number[][], { key: string; path: Path2D }>());
  const inkAll = useCallback(async () => {
    await loadEngine();
    const run = ++work.current;
    const engines = new Map<string, PathEngine>();
    const begun = performance.now();
    const out: InkedLine[] = [];
    for (let i = 0; i < lines.length; i++) {
      const l = lines[i];
      const brush = rack?.find((b) => b.id === l?.brush) ?? rack?.[0];
      if (!l || !brush) continue;
      const factor = l.factor * (weightScales ? scale : 1);
      const by = `${l.course}|${factor}|${taperKey(l.tapers)}|${brush.id}@${brush.current_version}`;
      const key = `${i}|${l.points.length}|${l.length_mm}|${l.reversed}|${scale}|${by}`;
      const places = placesOf(l);
      // A line whose points were nudged is kept by them: no text stands for them.
      const had = nudged.current.get(places);
      let path = l.nudged ? (had?.key === key ? had.path : undefined) : cache.current.get(key);
      if (!path) {
        let engine = engines.get(by);
        if (!engine) {
          engine = new PathEngine(JSON.stringify(brush.brush), l.course, factor, l.tapers?.lead_in_mm, l.tapers?.lead_out_mm);
          engines.set(by, engine);
        }
        path = new Path2D(engine.ink(new Float64Array(places.flat()), l.reversed, scale, 0.02));
        if (l.nudged) nudged.current.set(places, { key, path });
        else cache.current.set(key, path);
      }
      out.push({ path, colour: l.colour || (brush.brush.colour ?? '#000000') });
      if (i % BATCH === BATCH - 1) {
        // The page is let through; work that was overtaken by a newer change ends.
        await new Promise((r) => setTimeout(r, 0));
        if (run !== work.current) return;
      }
    }
    for (const e of engines.values()) e.free();
    if (cache.current.size > 4 * lines.length + 200) cache.current.clear();
    setInk(out);
    setTook(performance.now() - begun);
  }, [lines, rack, scale, weightScales]);
  useEffect(() => {
    if (lines.length && rack) void inkAll();
    else setInk([]);
  }, [inkAll, lines, rack]);
  return { ink, took };
}
