// A lane: a gutter that names it, and a body over the page's ruler.
import type { ReactNode } from 'react';

export function Lane({ name, says, children, tint }: { name: ReactNode; says?: ReactNode; children: ReactNode; tint?: string }) {
  return (
    <div className="lane">
      <div className="gutter">
        <b>{name}</b>
        {says && <span>{says}</span>}
      </div>
      <div className="body" style={tint ? { background: tint } : undefined}>
        {children}
      </div>
    </div>
  );
}

/** A ruler over `length` units, labelled every tenth. */
export function Ruler({ length, width = 1000, unit }: { length: number; width?: number; unit: string }) {
  const step = length > 160 ? 20 : length > 30 ? 10 : length > 6 ? 1 : 0.1;
  const ticks = Array.from({ length: Math.floor(length / step) + 1 }, (_, i) => i * step);
  return (
    <div className="lane" style={{ background: 'var(--sill)' }}>
      <div className="gutter tight soft" style={{ fontSize: '0.8rem', padding: '4px 12px' }}>
        {unit}
      </div>
      <svg viewBox={`0 0 ${width} 22`} className="axis" preserveAspectRatio="none" style={{ height: 22 }} aria-hidden>
        {ticks.map((t) => (
          <g key={t} transform={`translate(${(t / length) * width} 0)`}>
            <line y1="14" y2="22" />
            <text x="3" y="12">
              {Number(t.toFixed(2))}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

/** Points as SVG path data. */
export function pathOf(points: readonly (readonly number[])[], x: (v: number) => number, y: (v: number) => number, close = false) {
  if (!points.length) return '';
  return points.map((p, i) => `${i ? 'L' : 'M'}${x(p[0] ?? 0).toFixed(2)} ${y(p[1] ?? 0).toFixed(2)}`).join('') + (close ? 'Z' : '');
}
