// The weight curve with knots that are dragged where they are drawn, moved by arrow keys, or typed.
import { scaleLinear } from 'd3-scale';
import { useRef } from 'react';
import { curvePoints } from '../engine/engine';
import { Figure } from '../parts/Figure';
import { Axes } from './Axes';
import { pathOf } from './Lane';

const [W, H] = [620, 168];

type Props = { knots: number[][]; pen?: number[][]; onChange: (knots: number[][], done: boolean) => void; disabled?: boolean };

/** A width in thousandths of a mm, kept between its neighbours', which have more digits, so that the curve never falls. */
function keptRising(knots: number[][], i: number, mm: number) {
  const low = knots[i - 1]?.[1] ?? 0.01;
  const high = knots[i + 1]?.[1] ?? 20;
  return Math.min(high, Math.max(low, Math.round(mm * 1000) / 1000));
}

export function CurveEditor({ knots, pen, onChange, disabled }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const most = Math.max(...knots.map((k) => k[1] ?? 0), ...(pen ?? []).map((k) => k[1] ?? 0), 0.4) * 1.18;
  const x = scaleLinear([0, 1], [36, W - 10]);
  const y = scaleLinear([0, most], [H - 26, 8]);
  const set = (i: number, mm: number, done: boolean) =>
    onChange(
      knots.map((k, j) => (j === i ? [k[0] ?? 0, keptRising(knots, i, mm)] : k)),
      done,
    );
  const at = (e: React.PointerEvent) => {
    const r = svg.current?.getBoundingClientRect();
    return r ? y.invert(((e.clientY - r.top) / r.height) * H) : 0;
  };
  return (
    <div className="curve">
      <svg
        ref={svg}
        viewBox={`0 0 ${W} ${H}`}
        width="100%"
        style={{ touchAction: 'none' }}
        role="group"
        aria-label="weight curve: effort across, width in mm upward"
      >
        {y.ticks(4).map((t) => (
          <line key={t} x1={36} x2={W - 10} y1={y(t)} y2={y(t)} stroke="#e3e8e6" />
        ))}
        {pen?.map((k, i) => (
          <circle key={i} cx={x(k[0] ?? 0)} cy={y(k[1] ?? 0)} r="8" fill="none" stroke="#a3adb0" strokeWidth="2" />
        ))}
        <path d={pathOf(curvePoints(knots), x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
        <Axes x={x} y={y} top={H - 26} left={36} />
        {knots.map((k, i) => (
          <circle
            key={i}
            cx={x(k[0] ?? 0)}
            cy={y(k[1] ?? 0)}
            r="6"
            fill="var(--paper)"
            stroke="var(--eddy)"
            strokeWidth="2.4"
            tabIndex={disabled ? -1 : 0}
            role="slider"
            aria-label={`width at effort ${k[0]}`}
            aria-valuenow={k[1]}
            aria-valuetext={`${k[1]} mm`}
            style={{ cursor: 'ns-resize' }}
            onKeyDown={(e) => {
              const step = e.shiftKey ? 0.05 : 0.005;
              if (disabled || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return;
              e.preventDefault();
              set(i, (k[1] ?? 0) + (e.key === 'ArrowUp' ? step : -step), true);
            }}
            onPointerDown={(e) => !disabled && e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && set(i, at(e), false)}
            onPointerUp={(e) => {
              if (e.currentTarget.hasPointerCapture(e.pointerId)) set(i, at(e), true);
            }}
          />
        ))}
      </svg>
      <div>
        {knots.map((k, i) => (
          <div key={i} className="figure-row">
            <span>at effort {k[0]}</span>
            <b>
              <Figure
                value={k[1] ?? 0}
                digits={3}
                label={`width in mm at effort ${k[0]}`}
                range={[knots[i - 1]?.[1] ?? 0.001, knots[i + 1]?.[1] ?? 100]}
                disabled={disabled}
                onValue={(v) => set(i, v, true)}
              />{' '}
              mm
            </b>
          </div>
        ))}
      </div>
    </div>
  );
}
