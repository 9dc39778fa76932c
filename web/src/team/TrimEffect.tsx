// What a trim does to the artist's own measured lines: before and after as blocks on the band, one above the other.
import type { Schemas } from '../api/client';
import { pair } from '../parts/states';

const H = 24;

export function TrimEffect({ trim, weight }: { trim: Schemas['Trim']; weight: Schemas['Weight'] }) {
  const [lo, hi] = pair(weight.swell ?? [weight.target * (1 - weight.tolerance), weight.target * (1 + weight.tolerance)]);
  const all = [trim.before, trim.after].flatMap((e) => [e.p10_px, e.p90_px]);
  const least = Math.min(lo, ...all) * 0.97;
  const most = Math.max(hi, ...all) * 1.03;
  const x = (px: number) => `${((px - least) / (most - least)) * 100}%`;
  const wide = (a: number, b: number) => `${((b - a) / (most - least)) * 100}%`;
  const colour = (px: number) => (px > hi ? 'var(--heavy)' : px < lo ? 'var(--thin)' : 'var(--ink)');
  const rows = [
    ['as drawn', trim.before],
    ['with the correction', trim.after],
  ] as const;
  return (
    <>
      {rows.map(([label, e]) => (
        <div key={label} className="lane-row narrow">
          <div className="gutter">
            <b>{label}</b>
          </div>
          <div className="plot">
            <svg
              width="100%"
              height={H}
              role="img"
              aria-label={`${label}: ${e.mean_px.toFixed(2)} px, 10th to 90th percentile ${e.p10_px.toFixed(2)} to ${e.p90_px.toFixed(2)} px`}
            >
              <rect x={x(lo)} width={wide(lo, hi)} height={H} fill="var(--band)" />
              <rect x={x(e.p10_px)} width={wide(e.p10_px, e.p90_px)} y="8" height="8" fill={colour(e.mean_px)} opacity="0.35" />
              <line x1={x(e.mean_px)} x2={x(e.mean_px)} y1="3" y2={H - 3} stroke={colour(e.mean_px)} strokeWidth="3" />
            </svg>
          </div>
          <div className="read tight">
            {e.mean_px.toFixed(2)} px <span className="soft">{(100 * e.within).toFixed(0)} % within</span>
          </div>
        </div>
      ))}
      <div className="soft tight mt-1">
        Over {trim.before.drawings} measured drawings; the target widths are {trim.from}.{trim.limits.map((l) => ` ${l.charAt(0).toUpperCase()}${l.slice(1)}.`)}
      </div>
    </>
  );
}
