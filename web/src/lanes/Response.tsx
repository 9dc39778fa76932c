// A response curve over the histogram of the raw pressures that were used.
import { AxisBottom, AxisLeft } from '@visx/axis';
import { scaleLinear } from 'd3-scale';
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { curvePoints, loadEngine } from '../engine/engine';
import { pathOf } from './Lane';

export function Response({ profile, used, height = 300 }: { profile: Schemas['TabletProfile']; used: number[]; height?: number }) {
  const [points, setPoints] = useState<[number, number][]>([]);
  useEffect(() => {
    loadEngine().then(() => setPoints(curvePoints(profile.response)));
  }, [profile.response]);
  const [w, h] = [height * 1.75, height];
  const x = scaleLinear([0, 1], [34, w - 8]);
  const y = scaleLinear([0, 1], [h - 26, 8]);
  const most = Math.max(...used, 1e-9);
  const tick = { fontSize: 11, fill: 'var(--ink-soft)', fontFamily: 'var(--tight)' };
  return (
    <svg viewBox={`0 0 ${w} ${h}`} width="100%" role="img" aria-label="response curve over the histogram of used pressure">
      {used.map((u, i) => (
        <rect key={i} x={x(i / used.length)} width={x(1 / used.length) - x(0) - 1} y={y(0.9 * (u / most))} height={y(0) - y(0.9 * (u / most))} fill="#d3dad9" />
      ))}
      <line x1={x(profile.activation)} x2={x(profile.activation)} y1={y(0)} y2={y(1)} stroke="var(--ink-faint)" strokeDasharray="2 3" />
      <line x1={x(profile.full_point)} x2={x(profile.full_point)} y1={y(0)} y2={y(1)} stroke="var(--ink-faint)" strokeDasharray="2 3" />
      <path d={pathOf(points, x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      {profile.response.map((k, i) => (
        <circle key={i} cx={x(k[0] ?? 0)} cy={y(k[1] ?? 0)} r="3.4" fill="var(--paper)" stroke="var(--eddy)" strokeWidth="2" />
      ))}
      <AxisBottom top={h - 26} scale={x} numTicks={5} tickLabelProps={tick} stroke="var(--ink-faint)" tickStroke="var(--ink-faint)" />
      <AxisLeft
        left={34}
        scale={y}
        numTicks={4}
        tickLabelProps={{ ...tick, dx: -4, dy: 3, textAnchor: 'end' }}
        stroke="var(--ink-faint)"
        tickStroke="var(--ink-faint)"
      />
    </svg>
  );
}

/** A profile's figures in plain words. */
export function ProfileFigures({ profile }: { profile: Schemas['TabletProfile'] }) {
  const rows: [string, string][] = [
    ['first ink at raw pressure', profile.activation.toFixed(3)],
    ['full point', `${profile.full_point.toFixed(3)}${profile.full_point_seen ? '' : ', no plateau seen'}`],
    ['pressure steps', profile.pressure_steps ? String(profile.pressure_steps) : 'too few values seen'],
    ['report rate', `${profile.report_rate_hz.toFixed(1)} Hz`],
    ['reports missing', String(profile.dropouts)],
    ['tilt', profile.tilt ? 'reported' : 'not reported'],
    ['millimetres', profile.scale === 'card' ? 'from a traced card' : 'assumed, 96 px to the inch'],
  ];
  return (
    <>
      {rows.map(([name, value]) => (
        <div key={name} className="figure-row">
          <span>{name}</span>
          <b>{value}</b>
        </div>
      ))}
      {profile.advice.map((a) => (
        <div key={a} className="notice tight">
          {a.charAt(0).toUpperCase() + a.slice(1)}.
        </div>
      ))}
      <p className="soft tight mt-2 mb-0">
        That effort on paper equals effort on the tablet is a convention: only what the device reports can be measured. Noise, wobble and hysteresis are not
        measured yet.
      </p>
    </>
  );
}
