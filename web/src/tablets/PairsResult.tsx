// What pairs of pressure and ink say: a cloud of widths by raw pressure with the curve through it, the response beside the five efforts', and
// the strokes laid over the scan.

import { scaleLinear } from 'd3-scale';
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { curvePoints, loadEngine } from '../engine/engine';
import { Axes } from '../lanes/Axes';
import { pathOf } from '../lanes/Lane';
import { effortName } from '../lanes/LinesTable';
import { PairsLaid } from './PairsLaid';
import type { PageScan } from './pairsPage';

const [W, H] = [520, 300];

/** A curve of knots as points to be drawn. */
function useCurve(knots: number[][]) {
  const [points, setPoints] = useState<[number, number][]>([]);
  useEffect(() => {
    let gone = false;
    loadEngine().then(() => !gone && setPoints(knots.length > 1 ? curvePoints(knots) : []));
    return () => {
      gone = true;
    };
  }, [knots]);
  return points;
}

function Cloud({ pairs }: { pairs: Schemas['PressurePairs'] }) {
  const curve = useCurve(pairs.widths);
  const most = Math.max(...pairs.pairs.map((p) => p.width_mm), 0.1);
  const x = scaleLinear([0, 1], [44, W - 8]);
  const y = scaleLinear([0, 1.05 * most], [H - 26, 8]);
  const dots = pairs.pairs.map((p) => `M${x(p.raw).toFixed(1)} ${y(p.width_mm).toFixed(1)}h0`).join('');
  return (
    <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label="widths of the pen by raw pressure, with the curve through them">
      <path d={dots} stroke="var(--ink-faint)" strokeWidth="2" strokeLinecap="round" opacity="0.5" fill="none" />
      <path d={pathOf(curve, x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      <Axes x={x} y={y} top={H - 26} left={44} />
    </svg>
  );
}

function Responses({ view }: { view: Schemas['PairsView'] }) {
  const [own, named] = [useCurve(view.response), useCurve(view.by_efforts)];
  const x = scaleLinear([0, 1], [34, W - 8]);
  const y = scaleLinear([0, 1], [H - 26, 8]);
  return (
    <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label="response by the pairs over the response by the five efforts">
      <path d={pathOf(named, x, y)} fill="none" stroke="var(--ink-soft)" strokeWidth="1.6" strokeDasharray="5 3" />
      <path d={pathOf(own, x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      {view.response.map((k) => (
        <circle key={k[0]} cx={x(k[0] ?? 0)} cy={y(k[1] ?? 0)} r="3" fill="var(--paper)" stroke="var(--eddy)" strokeWidth="2" />
      ))}
      <Axes x={x} y={y} top={H - 26} left={34} />
    </svg>
  );
}

type Props = { view: Schemas['PairsView']; scan: PageScan | null; busy?: boolean; onNudge?: (nudge: Schemas['Nudge']) => void };

export function PairsResult({ view, scan, busy = false, onNudge }: Props) {
  const p = view.pairs;
  const over = p.way === 'over';
  const percent = (v: number) => `${(100 * v).toFixed(1)} %`;
  const rows: [string, string][] = [
    ['pairs', `${p.pairs.length}${p.unseen ? `, from ${p.unseen.strokes} strokes` : ''}`],
    [
      over ? 'the hand beside its line' : 'strokes beside their lines',
      `${p.registration_mm.median.toFixed(2)} mm, at most ${p.registration_mm.p95.toFixed(2)} mm for 95 %`,
    ],
    ['widths of strokes not used in the fit', p.unseen ? `${percent(p.unseen.median)} off, at most ${percent(p.unseen.p95)} for 95 %` : 'too few strokes'],
  ];
  if (over) rows.splice(2, 0, ['the hand answers after', `${p.lag_ms.toFixed(0)} ms`]);
  if (!over)
    rows.push(['pace', p.pace ? p.pace.map((k) => `${(k[0] ?? 0).toFixed(0)} mm/s × ${(k[1] ?? 1).toFixed(2)}`).join(', ') : 'the width does not go by it']);
  if (p.nib)
    rows.push([
      'nib',
      p.nib.law === 'ellipse' ? `flat, at ${p.nib.angle_deg.toFixed(0)}°` : p.nib.law === 'spring' ? `opens toward ${p.nib.pull_deg.toFixed(0)}°` : 'round',
    ]);
  return (
    <>
      {p.warnings.map((w) => (
        <div key={w} className="notice tight">
          {w.charAt(0).toUpperCase() + w.slice(1)}.
        </div>
      ))}
      <div className="d-flex gap-2 flex-wrap align-items-start">
        <div className="card-plain" style={{ flex: '1 1 440px' }}>
          <h2>Width by raw pressure</h2>
          <div className="soft tight">
            raw pressure across, the pen’s width in mm upward; grey: each pair; line: the curve through them
            {p.nib?.law !== 'round' && p.nib ? ', over all directions of the nib' : ''}
          </div>
          <Cloud pairs={p} />
        </div>
        <div className="card-plain" style={{ flex: '1 1 440px' }}>
          <h2>Response</h2>
          <div className="soft tight">raw pressure across, effort upward; line: by these pairs; broken: by the five efforts</div>
          {view.response.length ? <Responses view={view} /> : <p>This pen’s width hardly goes by pressure: the five efforts stand.</p>}
        </div>
        <div className="d-flex flex-column gap-2" style={{ flex: '1 1 300px' }}>
          <div className="card-plain">
            <h2>How sure these figures are</h2>
            {rows.map(([name, value]) => (
              <div key={name} className="figure-row">
                <span>{name}</span>
                <b>{value}</b>
              </div>
            ))}
          </div>
          {view.efforts_off.length > 0 && (
            <div className="card-plain">
              <h2>The five efforts, by these pairs</h2>
              <div className="soft tight">
                {view.pen
                  ? 'on the scale of effort of the pen’s own card'
                  : 'on a scale from the thinnest line (0) to the widest (1); choose the pen to have its own'}
              </div>
              {view.efforts_off.map(([effort = 0, off = 0]) => (
                <div key={effort} className="figure-row">
                  <span>{effortName(effort)}</span>
                  <b>{Math.abs(off) < 0.005 ? 'as named' : `drawn ${Math.abs(off).toFixed(2)} too ${off > 0 ? 'hard' : 'light'}`}</b>
                </div>
              ))}
            </div>
          )}
        </div>
        {scan && view.laid_mm.length > 0 && (
          <div className="card-plain" style={{ flex: '1 1 440px' }}>
            <h2>Strokes laid over the scan</h2>
            <PairsLaid key={p.placement.join()} view={view} scan={scan} busy={busy} onNudge={over ? undefined : onNudge} />
          </div>
        )}
      </div>
    </>
  );
}
