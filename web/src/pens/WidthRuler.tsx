// The drawer's common ruler: every pen's widths, feather to hardest, along one scale of millimetres with the standard widths.
import { scaleLog } from 'd3-scale';
import { Link } from 'react-router';
import type { Schemas } from '../api/client';

/** The widths of technical pens (ISO 9175), mm. */
const STANDARD = [0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1, 1.4, 2];
const ROW = 17;

export function WidthRuler({ pens, held }: { pens: Schemas['PenSummary'][]; held: string[] }) {
  const shown = pens.filter((p) => p.card.widths_by_effort?.length);
  if (!shown.length) return null;
  const all = shown.flatMap((p) => p.card.widths_by_effort?.map((w) => w.width_mm) ?? []);
  const x = scaleLog([Math.min(0.12, ...all) * 0.92, Math.max(2.1, ...all) * 1.06], [0, 100]);
  return (
    <div className="lanes mb-2">
      <div className="lane" style={{ gridTemplateColumns: '230px 1fr', background: 'var(--paper)' }}>
        <div className="gutter">
          <b>one ruler of widths</b>
          <span>feather to hardest; tick: normal effort</span>
        </div>
        <div className="body position-relative" style={{ height: ROW * shown.length + 26, margin: '0 14px' }}>
          {STANDARD.map((s) => (
            <div key={s} className="position-absolute" style={{ left: `${x(s)}%`, top: 0, bottom: 0, borderLeft: '1px solid var(--hairline)' }}>
              <span className="soft tight position-absolute" style={{ bottom: 0, left: 3, fontSize: 12 }}>
                {s}
              </span>
            </div>
          ))}
          {shown.map((p, i) => {
            const w = p.card.widths_by_effort?.map((v) => v.width_mm) ?? [];
            const [low, high] = [Math.min(...w), Math.max(...w)];
            const normal = p.card.widths_by_effort?.find((v) => v.effort === 0.5)?.width_mm;
            const right = x(high) > 70;
            return (
              <Link
                key={p.id}
                to={`/pens/${p.id}`}
                className="position-absolute text-decoration-none tight"
                style={{ top: ROW * i + 3, left: 0, right: 0, height: ROW, fontSize: 12, color: 'var(--ink)', fontWeight: held.includes(p.id) ? 600 : 400 }}
              >
                <span
                  className="position-absolute"
                  style={{ left: `${x(low)}%`, width: `max(3px, ${x(high) - x(low)}%)`, top: 6, height: 5, background: 'var(--ink)', borderRadius: 3 }}
                />
                {normal && (
                  <span className="position-absolute" style={{ left: `calc(${x(normal)}% - 1px)`, top: 3, width: 2, height: 11, background: 'var(--ink)' }} />
                )}
                <span className="position-absolute text-nowrap" style={right ? { right: `calc(${100 - x(low)}% + 7px)` } : { left: `calc(${x(high)}% + 7px)` }}>
                  {p.name}
                </span>
              </Link>
            );
          })}
          <span className="soft tight position-absolute" style={{ right: 0, bottom: 0, fontSize: 12 }}>
            mm
          </span>
        </div>
      </div>
    </div>
  );
}
