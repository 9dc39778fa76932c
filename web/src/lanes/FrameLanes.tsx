// Frame lanes: one column a drawing, one lane a role, a block from p10 to p90 with the median as a tick.
import type { Schemas } from '../api/client';

type Props = { delivery: Schemas['DeliveryView']; selected: string | null; onSelect: (id: string) => void };
const H = 46;

export function FrameLanes({ delivery, selected, onSelect }: Props) {
  const roles = delivery.guide.roles.filter((r) => r.judge !== false && r.weight_px);
  const n = delivery.drawings.length;
  const W = Math.max(1000, n * 22);
  const cw = W / Math.max(n, 1);
  const label = (d: Schemas['DrawingSummary'], i: number) => String(d.manifest.drawing ?? i + 1).replace(/^0+(?=\d)/, '');
  const move = (by: number) => {
    const i = delivery.drawings.findIndex((d) => d.id === selected);
    const next = delivery.drawings[Math.min(n - 1, Math.max(0, i + by))];
    if (next) onSelect(next.id);
  };
  return (
    <div
      className="lanes"
      role="listbox"
      aria-label="drawings"
      tabIndex={0}
      onKeyDown={(e) => {
        if (e.key === 'ArrowRight' || e.key === 'ArrowLeft') {
          e.preventDefault();
          move(e.key === 'ArrowRight' ? 1 : -1);
        }
      }}
    >
      <div style={{ display: 'grid', gridTemplateColumns: 'var(--gutter) 1fr' }}>
        <div style={{ background: 'var(--sill)', borderRight: '1px solid var(--hairline)' }}>
          <div className="tight soft px-3" style={{ height: 26, fontSize: '0.85rem', paddingTop: 4 }}>
            drawing
          </div>
          {roles.map((r) => (
            <div key={r.name} className="px-3 tight" style={{ height: H, borderTop: '1px solid var(--hairline)', lineHeight: 1.15, paddingTop: 6 }}>
              <b style={{ fontFamily: 'Barlow' }}>{r.name}</b>
              <div className="soft" style={{ fontSize: '0.8rem' }}>
                {r.weight_px?.target} px ± {((r.weight_px?.tolerance ?? 0) * 100).toFixed(0)} %
              </div>
            </div>
          ))}
        </div>
        <div style={{ overflowX: 'auto' }}>
          <svg
            viewBox={`0 0 ${W} ${26 + roles.length * (H + 1)}`}
            preserveAspectRatio="none"
            style={{ height: 26 + roles.length * (H + 1), minWidth: n * 22, width: '100%' }}
            className="axis"
          >
            {roles.map((r, k) => {
              const top = 26 + k * (H + 1);
              const w = r.weight_px as Schemas['Weight'];
              const range = Math.max(w.tolerance * 2.6, 0.26);
              const y = (px: number) => top + H / 2 - ((px / w.target - 1) / range) * (H / 2);
              const [lo, hi] = [w.target * (1 - w.tolerance), w.target * (1 + w.tolerance)];
              const clamp = (v: number) => Math.min(top + H - 1, Math.max(top + 1, v));
              return (
                <g key={r.name}>
                  <line x1="0" x2={W} y1={top} y2={top} stroke="var(--hairline)" />
                  <rect x="0" width={W} y={y(hi)} height={y(lo) - y(hi)} fill="var(--band)" />
                  <line x1="0" x2={W} y1={y(hi)} y2={y(hi)} stroke="var(--band-edge)" strokeDasharray="4 3" vectorEffect="non-scaling-stroke" />
                  <line x1="0" x2={W} y1={y(lo)} y2={y(lo)} stroke="var(--band-edge)" strokeDasharray="4 3" vectorEffect="non-scaling-stroke" />
                  {delivery.drawings.map((d, i) => {
                    const found = d.check?.roles.find((x) => x.role === r.name);
                    const s = found?.weight_px;
                    if (!s || !d.check) return null;
                    const f = d.check.scale * d.check.shot_factor;
                    const c = found.verdict === 'heavy' || found.verdict === 'mixed' ? 'var(--heavy)' : found.verdict === 'thin' ? 'var(--thin)' : 'var(--ink)';
                    const [a, b] = [clamp(y(s.p90 / f)), clamp(y(s.p10 / f))];
                    return (
                      <g key={d.id}>
                        <rect x={i * cw + cw * 0.14} width={cw * 0.72} y={a} height={Math.max(2, b - a)} fill={c} opacity="0.34" />
                        <rect x={i * cw + cw * 0.1} width={cw * 0.8} y={clamp(y(s.median / f)) - 1.4} height="2.8" fill={c} />
                      </g>
                    );
                  })}
                </g>
              );
            })}
            {delivery.drawings.map((d, i) => (
              <g
                key={d.id}
                role="option"
                aria-selected={d.id === selected}
                aria-label={`drawing ${label(d, i)}${d.check?.hand_on === 'return' ? ', goes back' : ''}`}
                onClick={() => onSelect(d.id)}
                style={{ cursor: 'pointer' }}
              >
                <rect x={i * cw} width={cw} y="0" height="100%" fill={d.id === selected ? 'var(--eddy)' : 'transparent'} opacity="0.14" />
                {d.check?.hand_on === 'return' && <circle cx={i * cw + cw / 2} cy="22.5" r="2.2" fill="var(--stop)" />}
                {d.state === 'failed' && (
                  <text x={i * cw + cw / 2} y="60" textAnchor="middle">
                    !
                  </text>
                )}
                <text x={i * cw + cw / 2} y="15" textAnchor="middle" style={d.id === selected ? { fontWeight: 600, fill: 'var(--ink)' } : undefined}>
                  {label(d, i)}
                </text>
              </g>
            ))}
          </svg>
        </div>
      </div>
    </div>
  );
}
