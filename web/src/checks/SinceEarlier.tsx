// What became of the previous take: of its findings, and of what was pinned on it.
import type { Schemas } from '../api/client';
import { FIGURE } from '../parts/picture';
import { BECAME, earlierLetter } from './PinMarks';

/** So many of what is fixed are named. */
const NAMED = 6;

export function SinceEarlier({ earlier }: { earlier: NonNullable<Schemas['DrawingView']['earlier']> }) {
  const { mended, stands, new: fresh } = earlier.compared;
  return (
    <div className="px-3 py-2 tight" style={{ borderTop: '1px solid var(--hairline)' }}>
      <b>
        Since the previous take: {mended.length} fixed · {stands.length} still there · {fresh.length} new
      </b>
      <div className="soft">
        {earlier.delivery_name}
        {earlier.note ? `: “${earlier.note}”` : ''}
      </div>
      {earlier.pins.map((p, i) => (
        <div key={i} className={p.became === 'fixed' ? 'soft' : undefined}>
          <b>{earlierLetter(i)}</b> {p.text}: <b>{BECAME[p.became]}</b>
        </div>
      ))}
      {mended.slice(0, NAMED).map((i) => {
        const f = earlier.findings[i];
        return f ? (
          <div key={i} className="soft">
            ✓ {f.kind} {f.role} {FIGURE[f.kind](f.value)}
          </div>
        ) : null;
      })}
      {mended.length > NAMED && <div className="soft">and {mended.length - NAMED} more fixed</div>}
    </div>
  );
}
