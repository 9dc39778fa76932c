// A response curve over the histogram of the raw pressures that were used.
import { scaleLinear } from 'd3-scale';
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { curvePoints, loadEngine } from '../engine/engine';
import { Axes } from '../lanes/Axes';
import { pathOf } from '../lanes/Lane';

type Props = { profile: Schemas['TabletProfile']; used: number[]; height?: number; before?: Schemas['TabletProfile'] | null };

export function Response({ profile, used, height = 300, before }: Props) {
  const [points, setPoints] = useState<[number, number][]>([]);
  const [earlier, setEarlier] = useState<[number, number][]>([]);
  useEffect(() => {
    loadEngine().then(() => {
      setPoints(curvePoints(profile.response));
      setEarlier(before ? curvePoints(before.response) : []);
    });
  }, [profile.response, before]);
  const [w, h] = [height * 1.75, height];
  const x = scaleLinear([0, 1], [34, w - 8]);
  const y = scaleLinear([0, 1], [h - 26, 8]);
  const most = Math.max(...used, 1e-9);
  return (
    <svg viewBox={`0 0 ${w} ${h}`} width="100%" role="img" aria-label="response curve over the histogram of used pressure">
      {used.map((u, i) => (
        <rect key={i} x={x(i / used.length)} width={x(1 / used.length) - x(0) - 1} y={y(0.9 * (u / most))} height={y(0) - y(0.9 * (u / most))} fill="#d3dad9" />
      ))}
      <line x1={x(profile.activation)} x2={x(profile.activation)} y1={y(0)} y2={y(1)} stroke="var(--ink-faint)" strokeDasharray="2 3" />
      <line x1={x(profile.full_point)} x2={x(profile.full_point)} y1={y(0)} y2={y(1)} stroke="var(--ink-faint)" strokeDasharray="2 3" />
      {before && <path d={pathOf(earlier, x, y)} fill="none" stroke="var(--ink-faint)" strokeWidth="2" strokeDasharray="6 4" />}
      <path d={pathOf(points, x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      {profile.response.map((k, i) => (
        <circle key={i} cx={x(k[0] ?? 0)} cy={y(k[1] ?? 0)} r="3.4" fill="var(--paper)" stroke="var(--eddy)" strokeWidth="2" />
      ))}
      <Axes x={x} y={y} top={h - 26} left={34} />
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
    ['pressure noise', profile.pressure_noise != null ? `± ${(100 * profile.pressure_noise).toFixed(2)} % of the range` : 'not shown'],
    [
      'letting go over pressing',
      profile.hysteresis != null
        ? `${Math.abs(profile.hysteresis) < 0.0005 ? '±' : profile.hysteresis > 0 ? '+' : '−'}${Math.abs(100 * profile.hysteresis).toFixed(1)} %`
        : 'not shown',
    ],
    ['position noise', profile.position_noise_um != null ? `± ${profile.position_noise_um.toFixed(0)} µm` : 'no line along a straight edge'],
    [
      'wobble on diagonals',
      profile.diagonal_wobble ? `${profile.diagonal_wobble.amplitude_um.toFixed(0)} µm every ${profile.diagonal_wobble.period_mm.toFixed(1)} mm` : 'none seen',
    ],
    [
      'smoothing it asks for',
      profile.suggested_smoothing
        ? `${smoothingWords(profile.suggested_smoothing.smoothing)}, ${profile.suggested_smoothing.lag_ms.toFixed(0)} ms behind`
        : 'none, or not shown',
    ],
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
        That effort on paper equals effort on the tablet is a convention: only what the device reports can be measured. Letting go is read against the ramp's
        guide; against force only a kitchen scale tells it.
      </p>
    </>
  );
}

/** A smoothing in a few words. */
export function smoothingWords(s: Schemas['SmoothingKind']) {
  if (s.kind === 'adaptive') return `adaptive: filter when slow ${s.min_cutoff_hz.toFixed(1)} Hz`;
  if (s.kind === 'average') return `averaged over ${s.span_ms.toFixed(0)} ms`;
  if (s.kind === 'tow') return `tow: follows at ${s.slack_mm.toFixed(2)} mm`;
  if (s.kind === 'faired') return `after the stroke, may deviate by ${s.tolerance_mm.toFixed(2)} mm`;
  return 'none';
}
