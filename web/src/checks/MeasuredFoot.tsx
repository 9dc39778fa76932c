// Under the findings: how much of the drawing was measured, and as what; its lines alone as files.
import type { Schemas } from '../api/client';
import { MASKED } from './DrawingView';

/** How much of the lines was measured, and what was left out as no line. */
function measured(check: Schemas['DrawingCheck']) {
  const length = check.roles.reduce((s, r) => s + r.length_px, 0);
  const share = check.roles.reduce((s, r) => s + r.length_px * r.measured_share, 0) / (length || 1);
  const hatching = check.roles.flatMap((r) => (r.hatching ? [`${r.hatching.strokes.toLocaleString()} strokes of ${r.role}`] : []));
  const kinds = [...new Set(check.masked?.map((m) => MASKED[m.kind]))];
  return `${(100 * share).toFixed(0)} % of the line length measured; ends, junctions and corners are left out${kinds.length ? `, nor ${kinds.join(', ')} (shown hatched)` : ''}${hatching.length ? `. Measured as hatching: ${hatching.join(', ')}` : ''}`;
}

/** What the picture was taken for, where that matters or was a close call; what its file lost, and what of it was not read. */
function takenAs({ source }: Schemas['DrawingCheck']) {
  const said = (start: string) => source?.assumed?.find((a) => a.startsWith(start));
  const lost = said('saved as a JPEG');
  const further = said('the first of its');
  const scanned = source && source.kind !== 'drawing';
  const taken =
    said('taken as') ?? (scanned ? `${source.from.kind === 'stated' ? 'given as' : 'taken as'} a ${source.kind}: its paper was removed first` : null);
  return [taken, lost, further].flatMap((s) => (s ? [` · ${s}`] : [])).join('');
}

type Props = {
  check: Schemas['DrawingCheck'];
  overlay: string;
  /** What is left out of this drawing alone. */
  regions: Schemas['RegionView'][];
  onPutIn: ((region: string) => void) | undefined;
};

export function MeasuredFoot({ check, overlay, regions, onPutIn }: Props) {
  return (
    <div className="px-3 py-2 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
      {measured(check)}
      {takenAs(check)}
      {regions.map((r) => (
        <div key={r.id}>
          {r.region.name} is left out of this drawing, {r.by}{' '}
          {onPutIn && (
            <button type="button" className="btn-word" onClick={() => onPutIn(r.id)}>
              Check {r.region.name} again
            </button>
          )}
        </div>
      ))}
      <div>
        Lines alone:{' '}
        <a href={`${overlay}/svg`} download>
          SVG
        </a>{' '}
        <a href={`${overlay}/png`} download>
          PNG
        </a>
      </div>
    </div>
  );
}
