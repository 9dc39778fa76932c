// The try lane: scribble while changing; every stroke is inked anew with each change, beside it as another brush if wished.
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { type Engine, MM_PER_PX, makeEngine, type Samples } from '../engine/engine';
import { Surface } from '../engine/Surface';
import { Lane } from '../lanes/Lane';
import { matched } from '../parts/screen';
import { useOpen } from '../session';

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

const ZOOMS = [0.5, 1, 2, 4];

type Props = {
  id: string;
  brush: Schemas['Brush'];
  response: number[][] | null | undefined;
  engine: Engine | null;
  strokes: Samples[];
  onStrokes: (strokes: Samples[]) => void;
  onDistortion: (share: number | null) => void;
};

export function TryLane({ id, brush, response, engine, strokes, onStrokes, onDistortion }: Props) {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const [zoom, setZoom] = useState(1);
  const [beside, setBeside] = useState('');
  const [other, setOther] = useState<Engine | null>(null);
  const [replay, setReplay] = useState<Samples[] | null>(null);
  const playing = useRef(0);
  const rack = useQuery({ queryKey: ['brushes', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes', { params })) });
  const second = rack.data?.find((b) => b.id === beside);
  const pxPerMm = matched();
  const trueZoom = pxPerMm ? pxPerMm * MM_PER_PX : null;

  useEffect(() => {
    let mine: Engine | null = null;
    try {
      mine = second ? makeEngine(second.brush, response) : null;
    } catch {
      mine = null;
    }
    setOther(mine);
  }, [second, response]);

  const density = useQuery({
    queryKey: ['density', id, brush, strokes],
    enabled: strokes.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      take(
        api.POST('/api/v1/productions/{production}/brushes/{id}/density', {
          params: { path: { production: production.id, id } },
          body: { brush, strokes: strokes.map((s) => s.map((v) => (Number.isFinite(v) ? v : null))) },
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
  const lane = (e: Engine | null, colour: string, label: string, own: boolean) => (
    <Surface
      height={own && !second ? 132 : 104}
      engine={e}
      zoom={zoom}
      strokes={replay ?? strokes}
      onStroke={(s) => onStrokes([...strokes, s])}
      colour={colour}
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
        {lane(engine, brush.colour ?? '#000', 'try lane', true)}
      </Lane>
      {second && (
        <Lane name="Compared" says={`${second.name}, the same strokes`}>
          {lane(other, second.brush.colour ?? '#000', 'the same strokes as another brush', false)}
        </Lane>
      )}
      <div className="try-foot tight">
        <label>
          compare with{' '}
          <select
            className="form-select form-select-sm tight d-inline-block w-auto"
            value={beside}
            aria-label="compare with"
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
        <span role="group" aria-label="zoom" className="tabs">
          {ZOOMS.map((z) => (
            <button key={z} type="button" aria-pressed={zoom === z} onClick={() => setZoom(z)}>
              {z}×
            </button>
          ))}
          <button
            type="button"
            aria-pressed={trueZoom !== null && zoom === trueZoom}
            disabled={trueZoom === null}
            title={trueZoom === null ? 'Match the screen to a card first: Pens, true size' : undefined}
            onClick={() => trueZoom && setZoom(trueZoom)}
          >
            true size
          </button>
        </span>
        <span className="soft">{trueZoom !== null && zoom === trueZoom ? 'true size' : `96 px to the inch${zoom === 1 ? '' : `, ${zoom}×`}`}</span>
        <span className="ms-auto">
          {d ? (
            <>
              tone <b>{(100 * d.tone).toFixed(0)} %</b>
              {d.coarseness && (
                <>
                  {' · '}coarseness <b>{d.coarseness.coarseness.toFixed(2)}</b>{' '}
                  <span className="soft">
                    ({d.coarseness.width.toFixed(2)} mm wide, {d.coarseness.clear.toFixed(2)} mm clear)
                  </span>
                </>
              )}
            </>
          ) : (
            <span className="soft">draw to see tone and coarseness</span>
          )}
        </span>
      </div>
    </div>
  );
}
