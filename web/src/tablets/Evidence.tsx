// The strokes behind a profile's figures, as pictures: what the device did along a straight edge, a diagonal, a ramp.
import { useQuery } from '@tanstack/react-query';
import { scaleLinear } from 'd3-scale';
import { api, take } from '../api/client';
import { pathOf } from '../lanes/Lane';
import { useOpen } from '../session';

type Points = number[][];
const W = 360;
const H = 110;
const text = { fontSize: 12, fill: 'var(--ink-soft)', fontFamily: 'var(--tight)' };

function Picture({ title, says, series, unit, down }: { title: string; says: string; series: [string, Points][]; unit: string; down: string }) {
  const all = series.flatMap(([, p]) => p);
  if (all.length < 4) return null;
  const xs = all.map((p) => p[0] ?? 0);
  const ys = all.map((p) => p[1] ?? 0);
  const x = scaleLinear([Math.min(...xs), Math.max(...xs)], [36, W - 6]);
  const y = scaleLinear([Math.min(...ys), Math.max(...ys)], [H - 20, 8]).nice(4);
  return (
    <div className="card-plain" style={{ flex: '1 1 280px' }}>
      <h2>{title}</h2>
      <div className="tight soft">{says}</div>
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label={title}>
        {y.ticks(3).map((t) => (
          <g key={t}>
            <line x1="36" x2={W - 6} y1={y(t)} y2={y(t)} stroke="var(--hairline)" />
            <text x="32" y={y(t) + 4} textAnchor="end" {...text}>
              {t}
            </text>
          </g>
        ))}
        {series.map(([colour, p]) => (
          <path key={colour} d={pathOf(p, x, y)} fill="none" stroke={colour} strokeWidth="1.2" />
        ))}
        <text x={W - 6} y={H - 4} textAnchor="end" {...text}>
          {unit}
        </text>
        <text x="36" y={H - 4} {...text}>
          {down}
        </text>
      </svg>
    </div>
  );
}

export function EvidencePictures({ id }: { id: string }) {
  const { production } = useOpen();
  const params = { path: { production: production.id, id } };
  const found = useQuery({ queryKey: ['evidence', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/profiles/{id}/evidence', { params })) });
  const e = found.data;
  if (!e) return null;
  return (
    <div className="d-flex gap-2 flex-wrap mt-2">
      <Picture
        title="A steady stroke's pressure"
        says="what trembles fast speed the device, what drifts is the hand"
        series={[['var(--ink)', e.steady]]}
        unit="seconds"
        down="raw pressure"
      />
      <Picture
        title="Pressing and letting go"
        says="dark: on the way up the ramp; light: on the way down"
        series={[
          ['var(--ink)', e.pressing],
          ['var(--ink-faint)', e.letting_go],
        ]}
        unit="effort"
        down="raw pressure"
      />
      <Picture
        title="Along a straight edge"
        says="how far the reports lie off the edge, bow removed"
        series={[['var(--ink)', e.ruled]]}
        unit="mm along"
        down="µm off"
      />
      <Picture
        title="Along a diagonal"
        says="a wave that stays in place is the device's own grid"
        series={[['var(--ink)', e.diagonal]]}
        unit="mm along"
        down="µm off"
      />
    </div>
  );
}
