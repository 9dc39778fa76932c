// A 30-second re-check of a profile: each effort once, and the verdict at once.
import { useCallback, useMemo, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import type { Samples } from '../engine/engine';
import { Sheet } from '../engine/Sheet';
import { drawnBy, useEngine } from '../engine/useEngine';
import { effortName } from '../lanes/LinesTable';
import { useLasting } from '../parts/lasting';
import { Problem } from '../parts/states';
import { useOpen } from '../session';
import { PLAIN_BRUSH, STEPS, whatIsWrong } from './warmUpSteps';

const NO_STROKES: Samples[] = [];
const EFFORTS = STEPS.filter((s) => s.exercise === 'effort');

export function Recheck({ id, response }: { id: string; response: number[][] }) {
  const { production } = useOpen();
  const [strokes, setStrokes] = useLasting<Samples[]>(`recheck-${id}`, NO_STROKES);
  const [found, setFound] = useState<Schemas['Recheck'] | null>(null);
  const [error, setError] = useState<unknown>(null);
  const { engine } = useEngine(PLAIN_BRUSH, response);
  const shown = useMemo(() => drawnBy(engine, strokes.slice(-1), '#16202b'), [engine, strokes]);
  const step = EFFORTS[strokes.length];
  const guide = useCallback((c: CanvasRenderingContext2D, [width, height]: [number, number]) => {
    c.strokeStyle = '#cfd7d6';
    c.lineWidth = 0.2;
    c.beginPath();
    c.moveTo(width * 0.1, height / 2);
    c.lineTo(width * 0.9, height / 2);
    c.stroke();
  }, []);
  const onStroke = async (s: Samples) => {
    if (!step) return;
    const wrong = whatIsWrong(step, s);
    if (wrong) {
      setError(new Error(wrong));
      return;
    }
    setError(null);
    const all = [...strokes, s];
    setStrokes(all);
    if (all.length < EFFORTS.length) return;
    try {
      const groups = all.map((k, i) => ({
        exercise: 'effort',
        effort: EFFORTS[i]?.effort ?? 0,
        pace: 'normal',
        strokes: [k.map((v) => (Number.isFinite(v) ? v : null))],
      }));
      const params = { path: { production: production.id, id } };
      setFound(await take(api.POST('/api/v1/productions/{production}/profiles/{id}/re-check', { params, body: { label: 're-check', groups } })));
    } catch (e) {
      setError(e);
    }
  };
  return (
    <div className="card-plain mb-2">
      <div className="d-flex justify-content-between">
        <h2>
          {found
            ? found.says.charAt(0).toUpperCase() + found.says.slice(1)
            : step
              ? `Draw one line at ${effortName(step.effort)} effort: ${step.says}`
              : 'Reading…'}
        </h2>
        <button
          type="button"
          className="btn-word"
          onClick={() => {
            setStrokes([]);
            setFound(null);
            setError(null);
          }}
        >
          start over
        </button>
      </div>
      <Problem error={error} />
      {found ? (
        found.efforts.map((e) => (
          <div key={e.effort} className="figure-row">
            <span>{effortName(e.effort)}</span>
            <b>
              intended {e.effort.toFixed(2)}, comes out {e.comes_out.toFixed(2)}
            </b>
          </div>
        ))
      ) : (
        <Sheet fixed height={110} engine={engine} strokes={shown} onStroke={onStroke} under={guide} label="re-check surface" />
      )}
    </div>
  );
}
