// The try lane: scribble while changing; every stroke is inked anew with each change, beside it as another brush if wished.
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { type Engine, MM_PER_PX, type Samples } from '../engine/engine';
import { Sheet, type SheetHandle } from '../engine/Sheet';
import { drawnBy, useEngine } from '../engine/useEngine';
import { ViewBar } from '../engine/ViewBar';
import type { View } from '../engine/view';
import { Lane } from '../lanes/Lane';
import { useRack } from '../parts/lists';
import { ThroughTablet } from '../parts/myTablet';
import { matched } from '../parts/screen';
import { useOpen } from '../session';
import { SIMULATED } from './tryStrokes';

type Props = {
  id: string;
  brush: Schemas['Brush'];
  response: number[][];
  engine: Engine | null;
  strokes: Samples[];
  onStrokes: (strokes: Samples[]) => void;
  onDistortion: (share: number | null) => void;
};

export function TryLane({ id, brush, response, engine, strokes, onStrokes, onDistortion }: Props) {
  const { production } = useOpen();
  const [beside, setBeside] = useState('');
  const [replay, setReplay] = useState<Samples[] | null>(null);
  const [view, setView] = useState<View | null>(null);
  const playing = useRef(0);
  const sheet = useRef<SheetHandle>(null);
  const rack = useRack(production.id);
  const second = rack.data?.find((b) => b.id === beside);
  const other = useEngine(second?.brush, response).engine;
  const pxPerMm = matched();

  const density = useQuery({
    queryKey: ['density', id, brush, strokes, response],
    enabled: strokes.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(
        api.POST('/api/v1/productions/{production}/brushes/{id}/density', {
          params: { path: { production: production.id, id } },
          body: { brush, response: response as [number, number][], strokes: strokes.map((s) => s.map((v) => (Number.isFinite(v) ? v : null))) },
        }),
      ),
  });
  const d = strokes.length ? density.data : undefined;
  useEffect(() => onDistortion(d?.distortion ?? null), [d?.distortion, onDistortion]);

  /** Draws the strokes again in the time that they took. */
  const play = () => {
    const run = ++playing.current;
    const whole = strokes.slice(-12);
    const starts = whole.map((s) => s[0] ?? 0);
    const spans = whole.map((s, k) => (s[s.length - 6] ?? 0) - (starts[k] ?? 0));
    const begun = performance.now();
    const step = () => {
      if (playing.current !== run) return;
      let left = performance.now() - begun;
      const shown: Samples[] = [];
      for (let k = 0; k < whole.length && left > 0; k++) {
        const s = whole[k] ?? [];
        const until = (starts[k] ?? 0) + left;
        const n = s.filter((v, i) => i % 6 === 0 && v <= until).length;
        if (n) shown.push(s.slice(0, 6 * n));
        left -= (spans[k] ?? 0) + 120;
      }
      if (left > 0) setReplay(null);
      else {
        setReplay(shown);
        requestAnimationFrame(step);
      }
    };
    step();
  };
  const shown = replay ?? strokes;
  const [colour, otherColour] = [brush.colour ?? '#000000', second?.brush.colour ?? '#000000'];
  const own = useMemo(() => drawnBy(engine, shown, colour), [engine, shown, colour]);
  const theirs = useMemo(() => drawnBy(other, shown, otherColour), [other, shown, otherColour]);
  const lane = (e: Engine | null, strokesOf: typeof own, label: string, first: boolean) => (
    <Sheet
      ref={first ? sheet : undefined}
      height={first && !second ? 118 : 92}
      engine={e}
      strokes={strokesOf}
      onStroke={(s) => onStrokes([...strokes, s])}
      onErase={(which) => onStrokes(strokes.filter((_, i) => !which.includes(i)))}
      onView={first ? setView : undefined}
      colour={first ? colour : otherColour}
      label={label}
    />
  );
  return (
    <div className="lanes try-lane">
      <Lane
        name="Try lane"
        says={
          <>
            <button type="button" className="btn-word" onClick={() => onStrokes([...strokes, ...SIMULATED])}>
              Add simulated strokes
            </button>
            <br />
            <button type="button" className="btn-word" disabled={!strokes.length} onClick={() => onStrokes(strokes.slice(0, -1))}>
              Remove last stroke
            </button>
            <br />
            <button type="button" className="btn-word" disabled={!strokes.length} onClick={play}>
              Replay strokes
            </button>
            {' · '}
            <button type="button" className="btn-word" disabled={!strokes.length} onClick={() => onStrokes([])}>
              Clear lane
            </button>
          </>
        }
      >
        {lane(engine, own, 'try lane', true)}
      </Lane>
      {second && (
        <Lane name="Compared" says={`${second.name}, the same strokes`}>
          {lane(other, theirs, 'the same strokes as another brush', false)}
        </Lane>
      )}
      <div className="try-foot tight">
        <ThroughTablet />
        <label>
          compare with{' '}
          <select
            className="form-select form-select-sm tight d-inline-block short"
            aria-label="compare with"
            value={beside}
            onChange={(e) => setBeside(e.target.value)}
          >
            <option value="">no other brush</option>
            {rack.data
              ?.filter((b) => b.id !== id)
              .map((b) => (
                <option key={b.id} value={b.id}>
                  {b.name}
                </option>
              ))}
          </select>
        </label>
        <ViewBar sheet={sheet} view={view} whole={1 / MM_PER_PX} trueScale={pxPerMm} />
        <span className="ms-auto">
          {d ? (
            <span title={d.coarseness ? `lines ${d.coarseness.width.toFixed(2)} mm wide, ${d.coarseness.clear.toFixed(2)} mm clear between them` : undefined}>
              tone <b>{(100 * d.tone).toFixed(0)} %</b>
              {d.coarseness && (
                <>
                  {' · '}coarseness <b>{d.coarseness.coarseness.toFixed(2)}</b>
                </>
              )}
            </span>
          ) : (
            <span className="soft">draw to see the tone</span>
          )}
        </span>
      </div>
    </div>
  );
}
