// What inks a trial page: the roll's passes, the brush in hand, and each stroke through the tablet that it was drawn on.
import { useQueries, useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { type Engine, loadEngine, makeEngine, type Own, type Samples, taperKey } from '../engine/engine';
import type { Drawn } from '../engine/tiles';
import { takeBrush, useRack } from '../parts/lists';
import type { Stroke } from './steps';

/** Which brush inks a pass, and how. */
export type Pass = { role: string; brush: string; version: number; colour: string; factor: number };

const byId = (results: { data?: Schemas['BrushView'] }[]): Record<string, Schemas['BrushView']> =>
  Object.fromEntries(results.flatMap((r) => (r.data ? [[r.data.id, r.data]] : [])));

export const samplesOf = (s: Stroke): Samples =>
  Object.assign(
    s.samples.map((v) => v ?? Number.NaN),
    { zoom: s.zoom },
  );

export function useInk(production: string, strokes: Stroke[], response: number[][], pxPerMm: number, role: string, other: string) {
  const params = { path: { production } };
  const rack = useRack(production);
  const roll = useQuery({ queryKey: ['roll', production], queryFn: () => take(api.GET('/api/v1/productions/{production}/roll', { params })) });
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
    if (!roll.data || !rack.data) return null;
    const of = passes.find((p) => p.role === role) ?? passes[0];
    const b = rack.data?.find((x) => x.id === other);
    if (b) return { role: of?.role ?? 'any line', brush: b.id, version: b.current_version, colour: of?.colour ?? b.brush.colour ?? '#000000', factor: 1 };
    if (of) return of;
    return first ? { role: 'any line', brush: first.id, version: first.current_version, colour: first.brush.colour ?? '#000000', factor: 1 } : null;
  }, [passes, role, other, roll.data, rack.data, first]);
  // Every brush that inks anything here, with all of its versions.
  const ids = [...new Set([...strokes.map((s) => s.brush_id), ...(current ? [current.brush] : [])])];
  const brushes = useQueries({
    queries: ids.map((id) => ({
      queryKey: ['brush', id],
      queryFn: () => takeBrush(production, id),
    })),
    combine: byId,
  });
  const [ready, setReady] = useState(false);
  useEffect(() => {
    loadEngine().then(() => setReady(true));
  }, []);
  const engines = useRef<Map<string, Engine>>(new Map());
  const engineOf = useCallback(
    (brush: string, version: number, factor: number, through: number[][] | null | undefined, own?: Own): [string, Engine] | null => {
      const v = brushes[brush];
      const of = v?.versions.find((x) => x.version === version);
      if (!ready || !v || !of) return null;
      // A stroke of before goes by the profile that its brush was matched through.
      const by = through ?? v.response ?? [];
      const key = `${brush}@${version}×${factor}|${taperKey(own?.tapers)}|${own?.course ?? ''}|${by.join(' ')}|${pxPerMm}`;
      let e = engines.current.get(key);
      if (!e) {
        e = makeEngine(of.brush, by, pxPerMm, factor, own);
        engines.current.set(key, e);
      }
      return [key, e];
    },
    [brushes, ready, pxPerMm],
  );
  const engine = current ? (engineOf(current.brush, current.version, current.factor, response)?.[1] ?? null) : null;
  // A stroke that is the same is drawn by the same: nothing of it is made anew.
  const cache = useRef(new WeakMap<Stroke, Drawn>());
  const drawnOf = useCallback(
    (s: Stroke): Drawn | null => {
      const by = engineOf(s.brush_id, s.version, s.weight_factor ?? 1, s.response, s);
      if (!by) return null;
      const had = cache.current.get(s);
      if (had?.engine === by[1] && had.colour === s.colour) return had;
      const n = ++made.current;
      const drawn = { key: `${n}`, engine: by[1], samples: samplesOf(s), colour: s.colour };
      cache.current.set(s, drawn);
      return drawn;
    },
    [engineOf],
  );
  const made = useRef(0);
  return { rack, roll, passes, current, ready, brushes, engine, drawnOf, first };
}
