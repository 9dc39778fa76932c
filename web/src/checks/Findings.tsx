// A drawing's findings as a list, must-fix first, many of one kind and role in one row: looked at, called intended, and what became of the
// previous take.
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import type { Schemas } from '../api/client';
import { focused } from '../parts/focused';
import { FIGURE } from '../parts/picture';
import { rows, saysGroup } from './groups';

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

/** What a finding says, without the words that its head and its figure say already. */
function says(f: Schemas['Finding']) {
  const text = f.message.slice(f.message.indexOf(': ') + 2);
  return f.kind === 'heavy' || f.kind === 'thin' ? text.replace(/^.* wide over /, 'over ') : text;
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

/** One finding of the list, with what a lead may do with it. */
function One({ p, i, fresh }: { p: Props; i: number; fresh: boolean }) {
  const f = p.drawing.check?.findings[i];
  if (!f) return null;
  const meant = f.dismissed ? p.drawing.dismissals.find((d) => d.finding === i) : undefined;
  return (
    <div style={f.dismissed ? { opacity: 0.75 } : undefined}>
      <button type="button" className="finding" aria-current={p.selected === i} onClick={() => p.onSelect(i)}>
        <span className="pin">{i + 1}</span>
        <span>
          <b style={f.dismissed ? { textDecoration: 'line-through' } : undefined}>
            {f.kind} {f.role}
          </b>
          {f.must_mend && !f.dismissed ? ' · must fix' : ''}
          {fresh ? ' · new' : ''}
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
}

/** Findings of one kind and role: one row, which opens. */
function Group({ p, of, fresh }: { p: Props; of: number[]; fresh: Set<number> }) {
  const [open, setOpen] = useState(false);
  const all = of.flatMap((i) => p.drawing.check?.findings[i] ?? []);
  const [first] = all;
  if (!first) return null;
  // What is looked at is seen in the list.
  const shown = open || (p.selected !== null && of.includes(p.selected));
  const off = first.kind === 'heavy' || first.kind === 'thin' ? first.kind : '';
  return (
    <div>
      <button type="button" className="finding" aria-expanded={shown} onClick={() => setOpen(!shown)}>
        <span className="pin" aria-hidden>
          {shown ? '▾' : '▸'}
        </span>
        <span>
          <b className={off}>
            {first.kind} {first.role}
          </b>
          {all.some((f) => f.must_mend) ? ' · must fix' : ''}
          <br />
          <span className="soft">{saysGroup(all, FIGURE[first.kind](first.value))}</span>
        </span>
      </button>
      {shown && (
        <div style={{ paddingLeft: 14 }}>
          {of.map((i) => (
            <One key={i} p={p} i={i} fresh={fresh.has(i)} />
          ))}
        </div>
      )}
    </div>
  );
}

export function Findings(p: Props) {
  const findings = p.drawing.check?.findings ?? [];
  const earlier = p.drawing.earlier;
  const fresh = new Set(earlier?.compared.new ?? []);
  return (
    <>
      <div style={{ maxHeight: 330, overflowY: 'auto' }}>
        {rows(findings).map(({ key, of }) =>
          of.length === 1 ? <One key={key} p={p} i={of[0] ?? 0} fresh={fresh.has(of[0] ?? 0)} /> : <Group key={key} p={p} of={of} fresh={fresh} />,
        )}
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
