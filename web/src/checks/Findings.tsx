// A drawing's findings as a list, must-mend first: looked at, called meant, and what became of the previous take.
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import type { Schemas } from '../api/client';
import { focused } from '../parts/focused';
import { FIGURE } from '../parts/picture';

type Props = {
  drawing: Schemas['DrawingView'];
  selected: number | null;
  onSelect: (i: number) => void;
  lead: boolean;
  meaning: boolean;
  onMeaning: (open: boolean) => void;
  onDismiss: (f: Schemas['Finding'], why: string) => void;
  onUndo: (id: string) => void;
  onUnpin: (id: string) => void;
};

/** What a finding says, without the words that its head says already. */
function says(f: Schemas['Finding']) {
  if (f.kind === 'heavy' || f.kind === 'thin')
    return `${f.length_px?.toFixed(0)} px long; ${f.kind === 'heavy' ? 'at most' : 'at least'} ${f.limit.toFixed(1)}`;
  return f.message.slice(f.message.indexOf(': ') + 2);
}

function Meant({ onDone, onCancel }: { onDone: (why: string) => void; onCancel: () => void }) {
  const [why, setWhy] = useState('');
  return (
    <Form
      className="px-3 pb-2"
      onSubmit={(e) => {
        e.preventDefault();
        onDone(why);
      }}
    >
      <Form.Control
        size="sm"
        ref={focused}
        value={why}
        placeholder="why it is intended"
        aria-label="why it is intended"
        onChange={(e) => setWhy(e.target.value)}
        onKeyDown={(e) => e.key === 'Escape' && onCancel()}
      />
      <div className="d-flex gap-2 mt-1">
        <Button size="sm" variant="paper" type="submit" disabled={!why.trim()}>
          Mark as intended
        </Button>
        <button type="button" className="btn-word" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </Form>
  );
}

export function Findings(p: Props) {
  const findings = p.drawing.check?.findings ?? [];
  const fresh = new Set(p.drawing.earlier?.compared.new ?? []);
  const earlier = p.drawing.earlier;
  return (
    <>
      <div style={{ maxHeight: 330, overflowY: 'auto' }}>
        {findings.map((f, i) => {
          const meant = f.dismissed ? p.drawing.dismissals.find((d) => d.finding === i) : undefined;
          return (
            <div key={i} style={f.dismissed ? { opacity: 0.75 } : undefined}>
              <button type="button" className="finding" aria-current={p.selected === i} onClick={() => p.onSelect(i)}>
                <span className="pin">{i + 1}</span>
                <span>
                  <b style={f.dismissed ? { textDecoration: 'line-through' } : undefined}>
                    {f.kind} {f.role}
                  </b>
                  {f.must_mend && !f.dismissed ? ' · must fix' : ''}
                  {earlier && fresh.has(i) ? ' · new' : ''}
                  <br />
                  <span className="soft">
                    {f.dismissed ? `intended: ${f.dismissed.why} (${f.dismissed.by}${meant?.carried ? ', on the previous take' : ''})` : says(f)}
                  </span>
                </span>
                <b className={f.kind === 'heavy' || f.kind === 'thin' ? f.kind : ''}>{FIGURE[f.kind](f.value)}</b>
              </button>
              {p.lead && p.selected === i && !f.dismissed && !p.meaning && (
                <div className="px-3 pb-2" style={{ paddingLeft: 44 }}>
                  <button type="button" className="btn-word" onClick={() => p.onMeaning(true)}>
                    Mark as intended…
                  </button>
                </div>
              )}
              {p.lead && p.selected === i && !f.dismissed && p.meaning && <Meant onDone={(why) => p.onDismiss(f, why)} onCancel={() => p.onMeaning(false)} />}
              {p.lead && p.selected === i && meant && (
                <div className="px-3 pb-2" style={{ paddingLeft: 44 }}>
                  <button type="button" className="btn-word" onClick={() => p.onUndo(meant.id)}>
                    Remove intended mark
                  </button>
                </div>
              )}
            </div>
          );
        })}
        {Object.entries(p.drawing.check?.not_listed ?? {}).map(([kind, n]) => (
          <p key={kind} className="px-3 py-2 tight soft mb-0">
            {n.toLocaleString()} more of the kind “{kind}” are not listed.
          </p>
        ))}
        {p.drawing.pins.map((q, i) => (
          <div key={q.id} className="finding">
            <span className="pin" style={{ borderRadius: 3, background: 'var(--stop)' }}>
              {String.fromCharCode(97 + (i % 26))}
            </span>
            <span>
              <b>{q.text}</b>
              <br />
              <span className="soft">pinned by {q.by}</span>
            </span>
            {p.lead && (
              <button type="button" className="btn-word" onClick={() => p.onUnpin(q.id)}>
                Remove pin
              </button>
            )}
          </div>
        ))}
      </div>
      {earlier && (
        <div className="px-3 py-2 tight" style={{ borderTop: '1px solid var(--hairline)' }}>
          <b>
            Since the previous take: {earlier.compared.mended.length} fixed · {earlier.compared.stands.length} still there · {earlier.compared.new.length} new
          </b>
          <div className="soft">
            {earlier.delivery_name}
            {earlier.note ? `: “${earlier.note}”` : ''}
          </div>
          {earlier.compared.mended.slice(0, 6).map((i) => {
            const f = earlier.findings[i];
            return f ? (
              <div key={i} className="soft">
                ✓ {f.kind} {f.role} {FIGURE[f.kind](f.value)}
              </div>
            ) : null;
          })}
          {earlier.compared.mended.length > 6 && <div className="soft">and {earlier.compared.mended.length - 6} more fixed</div>}
        </div>
      )}
    </>
  );
}
