// A drawing's findings as a list, must-fix first, many of one kind and role in one row: looked at, called intended, and what became of the
// previous take.
import { useState } from 'react';
import type { Schemas } from '../api/client';
import { chosen, mustFix } from '../parts/mustFix';
import { FIGURE } from '../parts/picture';
import { rows, saysGroup } from './groups';
import { Meant } from './Meant';
import { SameElsewhere } from './SameElsewhere';
import { SinceEarlier } from './SinceEarlier';

type Props = {
  drawing: Schemas['DrawingView'];
  selected: number | null;
  onSelect: (i: number) => void;
  lead: boolean;
  meaning: boolean;
  onMeaning: (open: boolean) => void;
  /** With the other drawings that have it at the same place, where they are marked too. */
  onDismiss: (f: Schemas['Finding'], why: string, alike: Schemas['Alike'][]) => void;
  onUndo: (id: string) => void;
  onUnpin: (id: string) => void;
  /** Drawings to be acted on together. */
  onChoose: (drawings: string[]) => void;
};

/** What a finding says, without the words that its head and its figure say already. */
function says(f: Schemas['Finding']) {
  const text = f.message.slice(f.message.indexOf(': ') + 2);
  return f.kind === 'heavy' || f.kind === 'thin' ? text.replace(/^.* wide over /, 'over ') : text;
}

/** One finding of the list, with what a lead may do with it. */
function One({ p, i, fresh }: { p: Props; i: number; fresh: boolean }) {
  const must = mustFix(chosen(p.drawing));
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
          {must(f) ? ' · must fix' : ''}
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
          </button>{' '}
          <SameElsewhere drawing={p.drawing.id} finding={i} onChoose={p.onChoose} />
        </div>
      )}
      {p.lead && p.selected === i && !f.dismissed && p.meaning && (
        <Meant drawing={p.drawing.id} finding={i} onDone={(why, alike) => p.onDismiss(f, why, alike)} onCancel={() => p.onMeaning(false)} />
      )}
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
          {all.some(mustFix(chosen(p.drawing))) ? ' · must fix' : ''}
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

function Pins({ p }: { p: Props }) {
  return p.drawing.pins.map((q, i) => (
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
  ));
}

export function Findings(p: Props) {
  const findings = p.drawing.check?.findings ?? [];
  const fresh = new Set(p.drawing.earlier?.compared.new ?? []);
  const last = p.drawing.decisions[p.drawing.decisions.length - 1];
  const must = mustFix(chosen(p.drawing));
  const shown = rows(findings);
  const row = ({ key, of }: (typeof shown)[number]) =>
    of.length === 1 ? <One key={key} p={p} i={of[0] ?? 0} fresh={fresh.has(of[0] ?? 0)} /> : <Group key={key} p={p} of={of} fresh={fresh} />;
  // Who drew it gets what the lead chose: pins first, then what must be fixed, then the rest folded.
  const theirs = !p.lead && last?.state === 'return';
  const first = theirs ? shown.filter((r) => r.of.some((i) => findings[i] && must(findings[i]))) : shown;
  const rest = theirs ? shown.filter((r) => !first.includes(r)) : [];
  const within = rest.some((r) => p.selected !== null && r.of.includes(p.selected));
  return (
    <>
      <div style={{ maxHeight: 330, overflowY: 'auto' }}>
        {theirs && <Pins p={p} />}
        {first.map(row)}
        {rest.length > 0 && (
          <details className="tight" open={within || undefined}>
            <summary className="px-3 py-2 soft">{rest.reduce((n, r) => n + r.of.length, 0)} more found, which need not be fixed</summary>
            {rest.map(row)}
          </details>
        )}
        {Object.entries(p.drawing.check?.not_listed ?? {}).map(([kind, n]) => (
          <p key={kind} className="px-3 py-2 tight soft mb-0">
            {n.toLocaleString()} more of the kind “{kind}” are not listed.
          </p>
        ))}
        {!theirs && <Pins p={p} />}
      </div>
      {p.drawing.earlier && <SinceEarlier earlier={p.drawing.earlier} />}
    </>
  );
}
