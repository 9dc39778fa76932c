// Deciding on a drawing: ready, or return with a note that is typed or drawn and with what must be fixed; the next take handed in.
import { Button, Form } from 'react-bootstrap';
import type { Schemas } from '../api/client';
import { focused } from '../parts/focused';
import { HandIn } from '../parts/HandIn';
import { day } from '../parts/states';
import { useMayChange } from '../session';
import { FixChoice, saysFix, useFixChoice } from './FixChoice';
import type { Fix, State } from './useDecisions';

type Props = {
  drawing: Schemas['DrawingView'];
  lead: boolean;
  /** It could not be read: it can be returned, and never be ready. */
  unread: boolean;
  /** The note that is being written, if one is. */
  note: string | null;
  strokes: number;
  onNote: (text: string | null) => void;
  onUndoStroke: () => void;
  onDecide: (state: State, note: string, fix: Fix) => void;
  onInkAgain: () => void;
  /** Removes it from the delivery, or says that it is no drawing. */
  onAside: (why: Schemas['WhyAside']) => void;
};

const SAYS: Record<string, string> = { ready: 'Ready', return: 'Returned', open: 'Undone' };

export function Deciding(p: Props) {
  const choice = useFixChoice(p.drawing);
  const may = useMayChange();
  const last = p.drawing.decisions[p.drawing.decisions.length - 1];
  const decided = last && last.state !== 'open';
  return (
    <div className="px-3 py-2 tight" style={{ borderTop: '1px solid var(--hairline)' }}>
      {last && (
        <div className="mb-1">
          <b>{SAYS[last.state]}</b> by {last.by}, {day(last.at)}
          {last.note && <div>“{last.note}”</div>}
          {last.state === 'return' && last.fix && <div className="soft">{saysFix(last.fix)}</div>}
          {last.strokes.length > 0 && <div className="soft">and drawn on the drawing</div>}
        </div>
      )}
      {p.note !== null ? (
        <Form
          onSubmit={(e) => {
            e.preventDefault();
            p.onDecide('return', p.note ?? '', choice.fix);
          }}
        >
          <Form.Control
            as="textarea"
            rows={3}
            ref={focused}
            value={p.note}
            aria-label="note to the artist"
            placeholder={p.unread ? 'What to hand in instead' : 'What to fix; you can draw on the drawing too'}
            onChange={(e) => p.onNote(e.target.value)}
            onKeyDown={(e) => {
              // What was written or drawn is left by its button only.
              if (e.key === 'Escape' && !p.note && !p.strokes) p.onNote(null);
              if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) p.onDecide('return', p.note ?? '', choice.fix);
            }}
          />
          <FixChoice of={choice} />
          <div className="d-flex gap-2 mt-1 align-items-center">
            <Button size="sm" type="submit" variant="paper" title="Ctrl Enter" disabled={!p.note.trim() && p.strokes === 0}>
              Return drawing
            </Button>
            <button type="button" className="btn-word" disabled={!p.strokes} onClick={p.onUndoStroke}>
              Undo stroke ({p.strokes})
            </button>
            <button type="button" className="btn-word" onClick={() => p.onNote(null)}>
              Cancel
            </button>
          </div>
        </Form>
      ) : (
        <div className="d-flex gap-2 flex-wrap">
          {p.lead && (
            <>
              {!p.unread && last?.state !== 'ready' && (
                <Button size="sm" variant="paper" title="1" onClick={() => p.onDecide('ready', '', null)}>
                  Mark as ready
                </Button>
              )}
              <Button size="sm" variant="paper" title="2" onClick={() => p.onNote(last?.state === 'return' ? last.note : '')}>
                {last?.state === 'return' ? 'Return with another note…' : 'Return with a note…'}
              </Button>
              {decided && (
                <button type="button" className="btn-word" onClick={() => p.onDecide('open', '', null)}>
                  Undo
                </button>
              )}
            </>
          )}
          {last?.state === 'return' && !p.drawing.later && may && <HandIn drawing={p.drawing} />}
          {last?.state === 'return' && !p.drawing.later && !p.unread && (
            <Button size="sm" variant="paper" onClick={p.onInkAgain}>
              Ink again on a trial page
            </Button>
          )}
          {p.lead && !decided && (
            <>
              <button type="button" className="btn-word" onClick={() => p.onAside('no-drawing')}>
                Mark as no drawing
              </button>
              <button type="button" className="btn-word" onClick={() => p.onAside('removed')}>
                Remove drawing
              </button>
            </>
          )}
        </div>
      )}
      {p.drawing.handed?.note && (
        <div>
          {p.drawing.handed.by}, with this take: “{p.drawing.handed.note}”
        </div>
      )}
      {p.drawing.later && <div className="soft">Its next take is here.</div>}
      {p.drawing.same_picture.length > 0 && <div style={{ color: 'var(--warn)' }}>The same picture as {p.drawing.same_picture.join(', ')}</div>}
    </div>
  );
}
