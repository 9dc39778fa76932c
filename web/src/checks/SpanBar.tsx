// Under the lanes: the drawings that were chosen on them, a span or one by one, and what can be done with all of them at once.
import { useState } from 'react';
import type { Schemas } from '../api/client';
import { focused } from '../parts/focused';
import type { Fix } from './useDecisions';

type Drawings = Schemas['DrawingSummary'][];
type Kind = Schemas['FindingKind'];
type Ask = 'ready' | 'return' | 'intend';
type Span = {
  of: Drawings;
  /** Those of it that are undecided. */
  open: Drawings;
  /** They are all of a span, and not some of it. */
  whole: boolean;
};
type Props = {
  span: Span | null;
  lead: boolean;
  folded: boolean;
  play: React.ReactNode;
  onReady: (of: Drawings) => void;
  /** Returns them, with one note. */
  onReturn: (of: Drawings, note: string, fix: Fix) => void;
  /** Marks all of a kind on them as intended. */
  onIntend: (of: Drawings, kind: Kind, why: string) => void;
  /** The kinds that the guide has looked for. */
  kinds: Kind[];
  /** The kinds that the guide says must be fixed. */
  must: Kind[];
  onClear: () => void;
  onFold: () => void;
};

const named = (d: Drawings[number] | undefined) => d?.manifest.drawing ?? d?.file ?? '';
/** At most so many are told by name. */
const TOLD = 8;
/** Several drawings by their names. */
const names = (of: Drawings) => `${of.slice(0, TOLD).map(named).join(', ')}${of.length > TOLD ? ` and ${of.length - TOLD} more` : ''}`;

export function SpanBar({ span, lead, folded, play, kinds, must: mustFix, onReady, onReturn, onIntend, onClear, onFold }: Props) {
  const [asked, setAsked] = useState<{ what: Ask; of: string } | null>(null);
  // What was asked of one span is not asked of the next.
  const which = span?.of.map((d) => d.id).join(' ') ?? '';
  const asks = asked?.of === which ? asked.what : null;
  const setAsks = (what: Ask | null) => setAsked(what && { what, of: which });
  // Folded, the marks stand right over the drawing, and how to play them in their gutter.
  if (!span && folded) return <div className="pt-1" />;
  // What is marked as ready over findings that must be fixed, or unseen by the check, is said and asked once.
  const must = span?.open.filter((d) => d.standing === 'goes-back') ?? [];
  const unseen = span?.open.filter((d) => d.standing === 'not-checked') ?? [];
  const clean = span?.open.filter((d) => !must.includes(d) && !unseen.includes(d)) ?? [];
  const over = [must.length && `${names(must)} must be fixed`, unseen.length && `${names(unseen)} could not be checked`].filter(Boolean).join('; ');
  const ready = (of: Drawings) => {
    setAsks(null);
    onReady(of);
  };
  return (
    <div className="d-flex gap-3 align-items-center flex-wrap tight py-1">
      {span ? (
        <>
          <b>
            {span.of.length === 1 ? '1 drawing' : `${span.of.length} drawings`}
            {span.whole ? `, ${named(span.of[0])} to ${named(span.of[span.of.length - 1])}` : `: ${names(span.of)}`}
          </b>
          {lead && span.open.length > 0 && asks === null && (
            <>
              <button type="button" className="btn-word" onClick={() => (over ? setAsks('ready') : ready(span.open))}>
                Mark {span.open.length} as ready
              </button>
              <button type="button" className="btn-word" onClick={() => setAsks('return')}>
                Return {span.open.length} with a note
              </button>
            </>
          )}
          {lead && asks === null && span.of.some((d) => d.summary?.findings) && (
            <button type="button" className="btn-word" onClick={() => setAsks('intend')}>
              Mark findings as intended…
            </button>
          )}
          {asks === 'intend' && (
            <form
              className="d-flex gap-2 flex-wrap align-items-center"
              onSubmit={(e) => {
                e.preventDefault();
                const data = new FormData(e.currentTarget);
                const why = String(data.get('why') ?? '').trim();
                if (!why) return;
                setAsks(null);
                onIntend(span.of, data.get('kind') as Kind, why);
              }}
            >
              <span>All findings of the kind</span>
              <select name="kind" aria-label="kind of finding">
                {kinds.map((k) => (
                  <option key={k}>{k}</option>
                ))}
              </select>
              <span>are intended:</span>
              <input className="form-control form-control-sm" style={{ width: 260 }} name="why" required ref={focused} aria-label="why they are intended" />
              <button type="submit" className="btn btn-paper btn-sm text-nowrap">
                Mark as intended
              </button>
              <button type="button" className="btn-word" onClick={() => setAsks(null)}>
                Cancel
              </button>
            </form>
          )}
          {asks === 'ready' && (
            <span role="alert" className="d-flex gap-3 flex-wrap">
              <span style={{ color: 'var(--warn)' }}>{over}.</span>
              {clean.length > 0 && (
                <button type="button" className="btn-word" onClick={() => ready(clean)}>
                  Mark the other {clean.length} as ready
                </button>
              )}
              <button type="button" className="btn-word" onClick={() => ready(span.open)}>
                Mark all {span.open.length} all the same
              </button>
              <button type="button" className="btn-word" onClick={() => setAsks(null)}>
                Cancel
              </button>
            </span>
          )}
          {asks === 'return' && (
            <form
              className="d-flex gap-2 flex-wrap align-items-center"
              onSubmit={(e) => {
                e.preventDefault();
                const data = new FormData(e.currentTarget);
                const note = String(data.get('note') ?? '').trim();
                if (!note) return;
                const fix = mustFix.filter((k) => data.get(k));
                setAsks(null);
                onReturn(span.open, note, fix.length === mustFix.length ? null : fix.map((kind) => ({ kind })));
              }}
            >
              <input
                className="form-control form-control-sm"
                style={{ width: 320 }}
                name="note"
                required
                ref={focused}
                aria-label={`note for all ${span.open.length}`}
                placeholder="what is wrong with all of them"
              />
              {mustFix.length > 0 && <span>must be fixed:</span>}
              {mustFix.map((k) => (
                <label key={k} className="d-flex gap-1">
                  <input type="checkbox" name={k} defaultChecked /> {k}
                </label>
              ))}
              <button type="submit" className="btn btn-paper btn-sm text-nowrap">
                Return {span.open.length}
              </button>
              <button type="button" className="btn-word" onClick={() => setAsks(null)}>
                Cancel
              </button>
            </form>
          )}
          <button
            type="button"
            className="btn-word"
            onClick={() => {
              setAsks(null);
              onClear();
            }}
          >
            Clear choice
          </button>
        </>
      ) : (
        <span className="soft">Drag over the lanes for a span, Ctrl-click for single drawings · ← → drawing</span>
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
