// The parts of the variance: artist, drawing, line; and what a perfect calibration could remove. For those who ask.
import type { Schemas } from '../api/client';
import { pair } from '../parts/states';

const PARTS = [
  ['artist', 'artists'],
  ['drawing', 'drawings of one artist'],
  ['line', 'lines of one drawing'],
] as const;

export function TeamVariance({ look }: { look: Schemas['TeamLook'] }) {
  const top = Math.max(...look.roles.flatMap((r) => (r.variance ? PARTS.map(([k]) => (r.variance as Schemas['Variance'])[k].high_px ?? 0) : [0])), 0.1);
  const most = Math.min(
    top,
    3 * Math.max(...look.roles.flatMap((r) => (r.variance ? PARTS.map(([k]) => (r.variance as Schemas['Variance'])[k].sd_px) : [0])), 0.1),
  );
  const who = look.by === 'artist' ? 'artists' : `${look.by === 'brush' ? 'brushe' : look.by}s`;
  return (
    <details className="mt-3 working">
      <summary>Where the variance lies, and which pairs differ</summary>
      <p className="soft tight mb-2">
        Standard deviations in px of the page with their 95 % intervals (restricted maximum likelihood, profile likelihood); few {who} give wide ones.
      </p>
      <table className="plain-table">
        <thead>
          <tr>
            <th>role</th>
            {PARTS.map(([k, says]) => (
              <th key={k}>{k === 'artist' ? who : says.replace('artist', look.by)}</th>
            ))}
            <th>a line’s whole spread</th>
          </tr>
        </thead>
        <tbody>
          {look.roles
            .filter((r) => r.standings.length > 0)
            .map((r) => (
              <tr key={r.role}>
                <td>{r.role}</td>
                {r.variance ? (
                  <>
                    {PARTS.map(([k]) => (
                      <td key={k}>
                        <PartBar part={(r.variance as Schemas['Variance'])[k]} most={most} />
                      </td>
                    ))}
                    <td>
                      {r.variance.whole_px.toFixed(2)} px
                      <div className="soft">
                        {r.variance.calibrated_px.toFixed(2)} px with all {who} alike
                      </div>
                    </td>
                  </>
                ) : (
                  <td colSpan={4} className="soft">
                    {r.no_variance}
                  </td>
                )}
              </tr>
            ))}
        </tbody>
      </table>
      <h2 className="mt-3">Pairs that differ</h2>
      {look.roles.every((r) => r.pairs.length === 0) ? (
        <p className="soft">None, among {look.roles.reduce((n, r) => n + r.pairs_tried, 0)} tried.</p>
      ) : (
        <table className="plain-table">
          <tbody>
            {look.roles.flatMap((r) =>
              r.pairs.map((p) => (
                <tr key={`${r.role} ${p.a} ${p.b}`}>
                  <td>{r.role}</td>
                  <td>
                    {p.a} against {p.b}
                  </td>
                  <td>
                    {p.difference_px > 0 ? '+' : '−'}
                    {Math.abs(p.difference_px).toFixed(2)} px
                  </td>
                  <td className="soft">
                    {pair(p.interval_px)[0].toFixed(2)} to {pair(p.interval_px)[1].toFixed(2)} px; p {p.p < 0.001 ? '< 0.001' : p.p.toFixed(3)}, corrected for{' '}
                    {r.pairs_tried} pairs
                  </td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      )}
    </details>
  );
}

function PartBar({ part, most }: { part: Schemas['VariancePart']; most: number }) {
  const x = (px: number) => `${Math.min(100, (100 * px) / most)}%`;
  return (
    <>
      <svg width="100%" height="10" aria-hidden style={{ maxWidth: 220 }}>
        <line x1={x(part.low_px)} x2={x(part.high_px ?? most)} y1="5" y2="5" stroke="var(--ink-faint)" strokeWidth="2" />
        <circle cx={x(part.sd_px)} cy="5" r="4" fill="var(--ink)" />
      </svg>
      <div>
        {part.sd_px.toFixed(2)} px{' '}
        <span className="soft">
          {part.low_px.toFixed(2)} {part.high_px == null ? 'and more' : `to ${part.high_px.toFixed(2)}`}
        </span>
      </div>
    </>
  );
}
