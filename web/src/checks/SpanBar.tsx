// Under the lanes: the span that was drawn over them, and what can be done with it.
import type { Schemas } from '../api/client';

type Drawings = Schemas['DrawingSummary'][];
type Props = {
  /** The drawings of the span, those of them that are undecided, and the names of its ends. */
  span: { of: Drawings; open: Drawings; from: string; to: string } | null;
  lead: boolean;
  folded: boolean;
  play: React.ReactNode;
  onReady: () => void;
  onClear: () => void;
  onFold: () => void;
};

export function SpanBar({ span, lead, folded, play, onReady, onClear, onFold }: Props) {
  // Folded, the marks stand right over the drawing, and how to play them in their gutter.
  if (!span && folded) return <div className="pt-1" />;
  return (
    <div className="d-flex gap-3 align-items-center tight py-1">
      {span ? (
        <>
          <b>
            {span.of.length} drawings, {span.from} to {span.to}
          </b>
          {lead && span.open.length > 0 && (
            <button type="button" className="btn-word" onClick={onReady}>
              Mark {span.open.length} as ready
            </button>
          )}
          <button type="button" className="btn-word" onClick={onClear}>
            Clear span
          </button>
        </>
      ) : (
        <span className="soft">Drag over the lanes for a span · ← → drawing</span>
      )}
      {play}
      {!folded && (
        <button type="button" className="btn-word" aria-expanded onClick={onFold}>
          Fold lanes
        </button>
      )}
    </div>
  );
}
