// Control charts along the drawings of one artist in one role: each drawing's weight against its own limits and the band, the weighted
// mean under it, and every point that breaks a rule named.
import { useState } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../api/client';

const RULES: Record<string, string> = {
  beyond: 'beyond three spreads',
  'two-of-three': 'two of three beyond two spreads',
  'four-of-five': 'four of five beyond one spread',
  'eight-on-one-side': 'eight on one side of the middle',
  'weighted-mean': 'the weighted mean is beyond its limits',
  jump: 'a jump from the drawing before',
};

const H = 150;
const WEIGHTED_H = 74;

export function ControlChart({ working }: { working: Schemas['Working'] }) {
  const [at, setAt] = useState<number | null>(null);
  const { points, charts, weight } = working;
  const sides = charts.flatMap((c) => (c.chart ? [{ ...c, chart: c.chart }] : []));
  const n = points.length;
  const [lo, hi] = [weight.target * (1 - weight.tolerance), weight.target * (1 + weight.tolerance)];
  const all = [...points.flatMap((p) => [p.p10_px, p.p90_px]), lo, hi, ...sides.flatMap((c) => c.chart.limits)];
  const [least, most] = [Math.min(...all), Math.max(...all)];
  const scale = (h: number) => (px: number) => h - 8 - ((px - least) / (most - least || 1)) * (h - 16);
  const y = scale(H);
  const x = (i: number) => `${((i + 0.5) / n) * 100}%`;
  const near = at == null ? null : points[at];
  const colour = (px: number) => (px > hi ? 'var(--heavy)' : px < lo ? 'var(--thin)' : 'var(--ink)');
  /** Where a side of the series begins and ends, across the plot. */
  const from = (c: { from: number }) => `${(c.from / n) * 100}%`;
  const to = (c: { from: number; drawings: number }) => `${((c.from + c.drawings) / n) * 100}%`;
  const broken = sides.flatMap((c) => c.chart.broken.flatMap((rules, i) => (rules.length ? [{ i: i + c.from, rules }] : [])));
  const none = charts.length < 2 ? 'None' : sides.length > 1 ? 'None on either side of the change' : `None ${sides[0]?.from ? 'since' : 'before'} the change`;
  const breaks = new Set(broken.map((b) => b.i));
  const since = working.standing.since ? points.findIndex((p) => p.id === working.standing.since?.id) : -1;
  const ends = sides.length ? weightedScale(sides.map((c) => c.chart)) : null;
  return (
    <div className="lanes">
      <div className="lane-row">
        <div className="gutter">
          <b>drawings</b>
          <span>in the order drawn; each from its 10th to its 90th percentile</span>
          <span>{near ? `${near.mean_px.toFixed(2)} px · ${near.day}` : `${n} drawings`}</span>
        </div>
        <div className="plot">
          <svg width="100%" height={H} role="img" aria-label={`weight of ${working.role} in ${n} drawings of ${working.name}`}>
            <rect x="0" width="100%" y={y(hi)} height={y(lo) - y(hi)} fill="var(--band)" />
            <line x1="0" x2="100%" y1={y(weight.target)} y2={y(weight.target)} stroke="var(--band-edge)" />
            {sides.flatMap((c) =>
              [c.chart.centre, ...c.chart.limits].map((v, k) => (
                <line
                  key={`${c.from} ${v}`}
                  x1={from(c)}
                  x2={to(c)}
                  y1={y(v)}
                  y2={y(v)}
                  stroke="var(--ink-soft)"
                  strokeDasharray={k ? '5 4' : undefined}
                  strokeWidth="1"
                />
              )),
            )}
            {since > 0 && <line x1={`${(since / n) * 100}%`} x2={`${(since / n) * 100}%`} y1="0" y2={H} stroke="var(--ink)" strokeDasharray="2 3" />}
            {points.map((p, i) => (
              <g key={p.id}>
                <line x1={x(i)} x2={x(i)} y1={y(p.p10_px)} y2={y(p.p90_px)} stroke={colour(p.mean_px)} strokeWidth="3" opacity="0.3" />
                <circle
                  cx={x(i)}
                  cy={y(p.mean_px)}
                  r={at === i ? 5.5 : 4}
                  fill={colour(p.mean_px)}
                  stroke={breaks.has(i) ? 'var(--ink)' : 'none'}
                  strokeWidth="2"
                />
              </g>
            ))}
          </svg>
          <div className="hits">
            {points.map((p, i) => (
              <Link
                key={p.id}
                to={`/checks/of/${p.id}`}
                aria-label={`${p.file}, ${p.mean_px.toFixed(2)} px`}
                title={`${p.file}${p.tablet ? ` · ${p.tablet}` : ''}${p.brush ? ` · ${p.brush}` : ''}`}
                onMouseEnter={() => setAt(i)}
                onFocus={() => setAt(i)}
                onMouseLeave={() => setAt(null)}
              />
            ))}
          </div>
        </div>
      </div>
      {ends && (
        <div className="lane-row">
          <div className="gutter">
            <b>weighted mean</b>
            <span>shows small lasting shifts (λ 0.3)</span>
          </div>
          <div className="plot">
            <svg width="100%" height={WEIGHTED_H} role="img" aria-label="exponentially weighted mean with its limits">
              {sides.map((c) => (
                <g key={c.from}>
                  {[c.chart.centre, ...c.chart.weighted_limits].map((v, k) => (
                    <line key={v} x1={from(c)} x2={to(c)} y1={ends(v)} y2={ends(v)} stroke="var(--ink-soft)" strokeDasharray={k ? '5 4' : undefined} />
                  ))}
                  {c.chart.weighted.map((v, i) => {
                    const before = c.chart.weighted[i - 1];
                    const at = i + c.from;
                    return (
                      <g key={points[at]?.id}>
                        {before !== undefined && <line x1={x(at - 1)} x2={x(at)} y1={ends(before)} y2={ends(v)} stroke="var(--ink)" strokeWidth="1.5" />}
                        <circle cx={x(at)} cy={ends(v)} r="2.5" fill="var(--ink)" />
                      </g>
                    );
                  })}
                </g>
              ))}
            </svg>
          </div>
        </div>
      )}
      <div className="lane-row">
        <div className="gutter">
          <b>rules broken</b>
        </div>
        <div className="plot tight px-2 py-1">
          {!sides.length ? (
            <span className="soft">Five drawings that differ are needed for a chart.</span>
          ) : broken.length === 0 ? (
            <span>{none}: these drawings vary as one steady hand’s do.</span>
          ) : (
            broken.map(({ i, rules }) => (
              <div key={points[i]?.id}>
                <Link to={`/checks/of/${points[i]?.id}`}>{points[i]?.file}</Link> <span className="soft">{rules.map((r) => RULES[r] ?? r).join('; ')}</span>
              </div>
            ))
          )}
        </div>
      </div>
    </div>
  );
}

function weightedScale(charts: Schemas['Chart'][]) {
  const all = charts.flatMap((c) => [...c.weighted, ...c.weighted_limits]);
  const [a, b] = [Math.min(...all), Math.max(...all)];
  return (v: number) => WEIGHTED_H - 6 - ((v - a) / (b - a || 1)) * (WEIGHTED_H - 12);
}
