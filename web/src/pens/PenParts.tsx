// What a sampler sheet told of a pen, part by part: tapers under their law, the rose of the nib, ramp, paces, dots, strip.
import { scaleLinear } from 'd3-scale';
import type { Schemas } from '../api/client';
import { pathOf } from '../lanes/Lane';

type Card = Schemas['PenCard'];
type Reading = Schemas['SheetReading'];

function Plot({ title, says, children, onPicture }: { title: string; says: React.ReactNode; children: React.ReactNode; onPicture?: () => void }) {
  return (
    <div className="card-plain" style={{ flex: '1 1 300px' }}>
      <div className="d-flex justify-content-between">
        <h2>{title}</h2>
        {onPicture && (
          <button type="button" className="btn-word" onClick={onPicture}>
            see the cell
          </button>
        )}
      </div>
      <div className="tight soft" style={{ minHeight: 20 }}>
        {says}
      </div>
      {children}
    </div>
  );
}

// As wide as a plot is on the page, so that its texts are as large as they say.
const W = 276;
const H = 130;
const text = { fontSize: 12, fill: 'var(--ink-soft)', fontFamily: 'var(--tight)' };

/** All flicks laid over one another from their free tip, and the law that was fitted to them at once. */
export function Tapers({
  name,
  taper,
  strokes,
  out,
  onPicture,
}: {
  name: string;
  taper: Schemas['CardTaper'];
  strokes: Schemas['StrokeReading'][];
  out: boolean;
  onPicture: () => void;
}) {
  const blunt = taper.at_90_mm === 0;
  const far = Math.max(2, 1.6 * taper.length_mm, 3 * taper.body_mm);
  const x = scaleLinear([0, far], [34, W - 6]);
  const y = scaleLinear([0, 1.15 * taper.body_mm], [H - 22, 6]);
  const law = Array.from({ length: 80 }, (_, i) => {
    const d = (far * i) / 79;
    const t = taper.tip_width_mm / taper.body_mm;
    return [d, taper.body_mm * (d < taper.length_mm ? t + (1 - t) * (d / taper.length_mm) ** taper.shape : 1)];
  });
  return (
    <Plot
      title={name}
      onPicture={onPicture}
      says={
        blunt
          ? `ends blunt, ${taper.flicks} ${taper.flicks === 1 ? 'flick' : 'flicks'}`
          : `half the width at ${taper.at_50_mm.toFixed(2)} mm, nine tenths at ${taper.at_90_mm.toFixed(2)} ${taper.sd_mm != null ? `± ${taper.sd_mm.toFixed(2)} ` : ''}mm, ${taper.flicks} ${taper.flicks === 1 ? 'flick' : 'flicks'}`
      }
    >
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label={`${name}: widths from the tip`}>
        {strokes.map((s) => {
          const w = out ? [...s.width_mm].reverse() : s.width_mm;
          return (
            <path
              key={s.slot}
              d={pathOf(
                w.map((v, i) => [i * s.step_mm, v]).filter(([d]) => (d ?? 0) <= far),
                x,
                y,
              )}
              fill="none"
              stroke="var(--ink-faint)"
              strokeWidth="0.8"
            />
          );
        })}
        {!blunt && <path d={pathOf(law, x, y)} fill="none" stroke="var(--eddy)" strokeWidth="2.2" />}
        <line x1={x(0)} x2={x(far)} y1={y(0)} y2={y(0)} stroke="var(--ink-faint)" />
        {x
          .ticks(4)
          .filter((t) => t < 0.64 * far)
          .map((t) => (
            <text key={t} x={x(t)} y={H - 8} textAnchor="middle" {...text}>
              {t}
            </text>
          ))}
        <text x={W - 6} y={H - 8} textAnchor="end" {...text}>
          mm from the tip
        </text>
        <text x={30} y={y(taper.body_mm) + 4} textAnchor="end" {...text}>
          {taper.body_mm.toFixed(2)}
        </text>
      </svg>
    </Plot>
  );
}

/** The middle of the rose. */
const [CX, CY] = [70, 72];

/** Widths by direction: rays as dots, the ring as a line, the law as a closed curve. */
export function Rose({ card, reading, onPicture }: { card: Card; reading: Reading; onPicture: () => void }) {
  const nib = card.nib;
  const rays = reading.cells.filter((c) => c.kind === 'fan').flatMap((c) => c.strokes.map((s) => [s.direction_deg, s.body?.width_mm ?? 0]));
  const ring = reading.cells.filter((c) => c.kind === 'circle').flatMap((c) => c.by_direction ?? []);
  const most = Math.max(0.1, ...rays.map((r) => r[1] ?? 0), ...ring.map((r) => r[1] ?? 0)) * 1.08;
  const r = 66;
  const at = (deg: number, w: number) => [CX + (r * w * Math.cos((deg * Math.PI) / 180)) / most, CY - (r * w * Math.sin((deg * Math.PI) / 180)) / most];
  const width = (deg: number) => {
    if (!nib) return 0;
    const a = (d: number) => (d * Math.PI) / 180;
    if (nib.law === 'round') return nib.length_mm;
    if (nib.law === 'spring') return nib.length_mm + 0.5 * nib.opening_mm * Math.max(0, Math.cos(a(deg - nib.pull_deg)));
    return Math.hypot(nib.length_mm * Math.sin(a(deg - nib.angle_deg)), nib.breadth_mm * Math.cos(a(deg - nib.angle_deg)));
  };
  const says = !nib
    ? 'too few directions were read'
    : nib.law === 'round'
      ? `round: ${nib.length_mm.toFixed(3)} mm in every direction, ± ${nib.residual_mm.toFixed(3)} mm`
      : nib.law === 'spring'
        ? `spring: ${nib.length_mm.toFixed(3)} mm closed, opens most toward ${nib.pull_deg.toFixed(0)}°, by ${(0.5 * nib.opening_mm).toFixed(3)} mm at normal effort`
        : `flat: ${nib.length_mm.toFixed(2)} × ${nib.breadth_mm.toFixed(2)} mm, long side at ${nib.angle_deg.toFixed(1)}°`;
  return (
    <Plot title="Nib, by direction drawn" says={says} onPicture={onPicture}>
      <svg viewBox={`0 0 ${W} ${2 * CY}`} width="100%" role="img" aria-label="rose of the nib">
        {[0.5, 1].map((k) => (
          <circle key={k} cx={CX} cy={CY} r={r * k} fill="none" stroke="var(--hairline)" />
        ))}
        <line x1={CX - r} x2={CX + r} y1={CY} y2={CY} stroke="var(--hairline)" />
        <line y1={CY - r} y2={CY + r} x1={CX} x2={CX} stroke="var(--hairline)" />
        <path
          d={pathOf(
            [...ring].sort((a, b) => (a[0] ?? 0) - (b[0] ?? 0)).map(([d = 0, w = 0]) => at(d, w)),
            (v) => v,
            (v) => v,
            ring.length > 60,
          )}
          fill="none"
          stroke="var(--ink-faint)"
        />
        {nib && (
          <path
            d={pathOf(
              Array.from({ length: 120 }, (_, i) => at(3 * i, width(3 * i))),
              (v) => v,
              (v) => v,
              true,
            )}
            fill="none"
            stroke="var(--eddy)"
            strokeWidth="2.2"
          />
        )}
        {rays.map(([d = 0, w = 0]) => {
          const [cx, cy] = at(d, w);
          return <circle key={d} cx={cx} cy={cy} r="2.6" fill="var(--ink)" />;
        })}
        <text x={CX + r + 5} y={CY - 4} {...text}>
          {(most / 1.0).toFixed(2)} mm
        </text>
        {[
          ['var(--ink)', 'rays of the fan'],
          ['var(--ink-faint)', 'around the circle'],
          ['var(--eddy)', 'fitted nib'],
        ].map(([c, t], i) => (
          <g key={t} transform={`translate(166 ${16 + 17 * i})`}>
            <line x1="0" x2="16" y1="-4" y2="-4" stroke={c} strokeWidth={i === 1 ? 1 : 2.4} />
            <text x="22" {...text}>
              {t}
            </text>
          </g>
        ))}
      </svg>
    </Plot>
  );
}

/** The ramp as a shape: feather at both ends, hardest in the middle. */
export function Ramp({ points, onPicture }: { points: Schemas['RampPoint'][]; onPicture: () => void }) {
  const most = Math.max(...points.map((p) => p.width_mm));
  const x = scaleLinear([0, 1], [8, W - 8]);
  const y = scaleLinear([-most * 0.6, most * 0.6], [H - 20, 4]);
  const shape = [...points.map((p) => [p.position, p.width_mm / 2]), ...[...points].reverse().map((p) => [p.position, -p.width_mm / 2])];
  return (
    <Plot title="Ramp" says={`feather to hardest and back: ${points[0]?.width_mm.toFixed(2)} to ${most.toFixed(2)} mm`} onPicture={onPicture}>
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label="width along the ramp">
        <path d={pathOf(shape, x, y, true)} fill="var(--ink)" />
        <text x={8} y={H - 4} {...text}>
          feather
        </text>
        <text x={W / 2} y={H - 4} textAnchor="middle" {...text}>
          hardest
        </text>
        <text x={W - 8} y={H - 4} textAnchor="end" {...text}>
          feather
        </text>
      </svg>
    </Plot>
  );
}

/** Two copies of the strip, butted, ten times as large. */
export function Seam({ strip, mismatch }: { strip: string; mismatch?: number | null }) {
  const part = { backgroundImage: `url(${strip})`, backgroundSize: 'auto 100%', height: 96, flex: 1, imageRendering: 'pixelated' as const };
  return (
    <Plot
      title="Strip, butted end to start"
      says={mismatch != null ? `the edges miss one another by ${mismatch.toFixed(1)} µm at the seam` : 'the levelled line, paper removed'}
    >
      <div className="d-flex mt-1" role="img" aria-label="two copies of the strip, butted">
        <div style={{ ...part, backgroundPosition: 'right center' }} />
        <div style={{ width: 1, background: 'var(--eddy)' }} />
        <div style={{ ...part, backgroundPosition: 'left center' }} />
      </div>
    </Plot>
  );
}

/** Widths along the lines ruled at one effort, laid over one another. */
export function Along({ lines, onPicture }: { lines: Schemas['PenLine'][]; onPicture: () => void }) {
  const far = Math.max(1, ...lines.map((l) => l.step_mm * l.width_mm.length));
  const all = lines.flatMap((l) => l.width_mm);
  if (!all.length) return null;
  const x = scaleLinear([0, far], [40, W - 6]);
  const y = scaleLinear([Math.min(...all) * 0.96, Math.max(...all) * 1.02], [H - 22, 6]).nice(4);
  return (
    <Plot title="Width along the line" says={`${lines.length} lines at normal effort, laid over one another`} onPicture={onPicture}>
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label="width along the line">
        {y.ticks(3).map((t) => (
          <g key={t}>
            <line x1="40" x2={W - 6} y1={y(t)} y2={y(t)} stroke="var(--hairline)" />
            <text x="36" y={y(t) + 4} textAnchor="end" {...text}>
              {t.toFixed(2)}
            </text>
          </g>
        ))}
        {lines.map((l, i) => (
          <path
            key={i}
            d={pathOf(
              l.width_mm.map((v, k) => [k * l.step_mm, v]),
              x,
              y,
            )}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="0.8"
            opacity="0.6"
          />
        ))}
        <text x={W - 6} y={H - 6} textAnchor="end" {...text}>
          mm along
        </text>
      </svg>
    </Plot>
  );
}

/** The autocorrelation of the edges about their lines, and the exponential of the correlation length found. */
export function EdgeCorrelation({ points, length, onPicture }: { points: number[][]; length: number | null | undefined; onPicture?: () => void }) {
  if (points.length < 3) return null;
  const far = points[points.length - 1]?.[0] ?? 1;
  const x = scaleLinear([0, far], [40, W - 6]);
  const y = scaleLinear([Math.min(-0.15, ...points.map((p) => p[1] ?? 0)), 1.05], [H - 22, 6]);
  const law = length ? Array.from({ length: 60 }, (_, i) => [(far * i) / 59, Math.exp(-(far * i) / 59 / length)]) : [];
  return (
    <Plot
      title="The edge along the line"
      onPicture={onPicture}
      says={length ? `autocorrelation of both edges; broken line: e^(−d / ${length.toFixed(0)} µm)` : 'autocorrelation of both edges'}
    >
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label="autocorrelation of the edges">
        {[0, 0.5, 1].map((t) => (
          <g key={t}>
            <line x1="40" x2={W - 6} y1={y(t)} y2={y(t)} stroke="var(--hairline)" />
            <text x="36" y={y(t) + 4} textAnchor="end" {...text}>
              {t}
            </text>
          </g>
        ))}
        <path d={pathOf(law, x, y)} fill="none" stroke="var(--ink-soft)" strokeDasharray="4 3" />
        <path d={pathOf(points.slice(1), x, y)} fill="none" stroke="var(--ink)" strokeWidth="1.4" />
        {points.slice(1).map(([lag = 0, r = 0]) => (
          <circle key={lag} cx={x(lag)} cy={y(r)} r="1.8" fill="var(--ink)" />
        ))}
        <text x={W - 6} y={H - 6} textAnchor="end" {...text}>
          µm along, to {far.toFixed(0)}
        </text>
      </svg>
    </Plot>
  );
}
