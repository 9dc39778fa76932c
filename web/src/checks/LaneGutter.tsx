// The gutter of the frame lanes: which drawing is under the pointer, each lane's role and weight; folded, what stands there instead.
import type { Schemas } from '../api/client';

/** Heights of a lane and of what stands over them all, px. */
export const LANE = 38;
export const TOP = 46;
export type Lane = { name: string; role: number; weight: Schemas['Weight'] };

type Props = { lanes: Lane[]; shown: Schemas['DrawingSummary'] | null; label: string; folded: React.ReactNode | null };

export function LaneGutter({ lanes, shown, label, folded }: Props) {
  return (
    <div style={{ background: 'var(--sill)', borderRight: '1px solid var(--hairline)' }}>
      <div className="tight soft px-3" style={{ height: TOP, fontSize: '0.85rem', lineHeight: 1.2, paddingTop: 6 }}>
        {folded ? (
          <div style={{ display: 'grid', justifyItems: 'start', lineHeight: '17px' }}>{folded}</div>
        ) : shown ? (
          <>
            drawing <b>{label}</b>
            <br />
            {shown.manifest.artist ?? 'artist not known'}
            {Number(shown.manifest.exposure ?? 1) > 1 && `, ×${shown.manifest.exposure}`}
          </>
        ) : (
          <>
            drawing
            <br />
            artist, × held
          </>
        )}
      </div>
      {lanes.map((l) => {
        const s = shown?.summary?.lanes.find((x) => x.role === l.role);
        return (
          <div key={l.name} className="px-3 tight" style={{ height: LANE, borderTop: '1px solid var(--hairline)', lineHeight: 1.12, paddingTop: 3 }}>
            <b style={{ fontFamily: 'Barlow' }}>{l.name}</b>
            <div className="soft text-nowrap" style={{ fontSize: '0.78rem', letterSpacing: '-0.01em' }}>
              {s ? (
                <b className={s.verdict === 'heavy' || s.verdict === 'thin' ? s.verdict : ''}>
                  {s.median.toFixed(2)} px ({s.p10.toFixed(1)}–{s.p90.toFixed(1)})
                </b>
              ) : (
                `${l.weight.target} px ± ${(l.weight.tolerance * 100).toFixed(0)} %`
              )}
            </div>
          </div>
        );
      })}
    </div>
  );
}
