// The open part of a brush: its name, how it compares with the pen and why, what can be done about it; its rows and switches.
import type { ReactNode } from 'react';
import type { Schemas } from '../api/client';
import { Figure } from '../parts/Figure';

export type Brush = Schemas['Brush'];
export type Part = Schemas['Part'];
/** What every card is given. */
export type CardProps = {
  brush: Brush;
  change: (b: Brush) => void /** While a handle is dragged. */;
  preview: (b: Brush) => void;
  may: boolean;
  match: MatchProps;
};
export type MatchProps = {
  parts: Schemas['PartMatch'][];
  locked: Part[];
  onLock: (part: Part) => void;
  /** Fits one part to the pen; none where there is no pen. */
  onFit?: (part: Part) => void;
  /** Fields of the brush that cannot be saved as they are, with the reason. */
  refused: Record<string, string>;
};

/** The part whose controls set a field of the brush, where it is not called as the field is. */
const SET_IN: Record<string, string> = {
  'Lead-in': 'lead_in',
  'Lead-out': 'lead_out',
  'Stroke kind': 'stroke',
};
const ALSO: Record<string, string[]> = { Weight: ['floor_mm', 'driver'], 'Opacity and random width': ['opacity', 'chance', 'colour'] };

/** Why what a part sets cannot be saved. */
export function refusedIn(title: string, refused: Record<string, string>) {
  const fields = [SET_IN[title] ?? title.toLowerCase(), ...(ALSO[title] ?? [])];
  return fields.flatMap((f) => refused[f] ?? []);
}

export const VERDICT = { alike: 'alike', differs: 'differs', 'too-few': 'too few lines to say', 'cannot-be-matched': 'cannot be matched' } as const;

export function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="figure-row">
      <span>{name}</span>
      <b>{children}</b>
    </div>
  );
}

type Typed = {
  name: string;
  unit?: string;
  value: number;
  digits: number;
  label: string;
  range?: [number, number];
  disabled?: boolean;
  onValue: (v: number) => void;
  children?: ReactNode;
};

/** A number of the brush, typed, with its unit (a degree stands close), or with what is to stand after it. */
export function FigureRow({ name, unit, children, ...figure }: Typed) {
  return (
    <Row name={name}>
      <Figure {...figure} />
      {unit && (unit === '°' ? unit : ` ${unit}`)}
      {children}
    </Row>
  );
}

export function Switch({ on, label, onChange, may }: { on: boolean; label: string; onChange: (on: boolean) => void; may: boolean }) {
  return (
    <button
      type="button"
      className="btn-word"
      aria-pressed={on}
      aria-label={`${label}: ${on ? 'set to none' : 'add'}`}
      disabled={!may}
      onClick={() => onChange(!on)}
    >
      {on ? 'Set to none' : 'Add'}
    </button>
  );
}

type Frame = { title: string; part?: Part; match: MatchProps; may: boolean; aside?: ReactNode; whole?: boolean; children: ReactNode };

/** The open part: its name, how it compares with the pen and why, what can be done about it, and its controls. */
export function Card({ title, part, match, may, aside, whole, children }: Frame) {
  const found = part && match.parts.find((p) => p.part === part);
  const locked = !!part && match.locked.includes(part);
  return (
    <section className="part" aria-label={title}>
      <div className="part-head">
        <h2>{title}</h2>
        {found && (
          <div className="part-says" title={found.measured}>
            <b className={found.verdict === 'differs' ? 'text-ink' : 'soft'}>{VERDICT[found.verdict]}</b>
            <span className="soft">: {found.says}</span>
          </div>
        )}
        <span className="ms-auto d-flex gap-3 tight">
          {part && may && match.onFit && (
            <>
              <button
                type="button"
                className="btn-word"
                aria-pressed={locked}
                aria-label={`${title}: ${locked ? 'unlock' : 'lock'}`}
                onClick={() => match.onLock(part)}
              >
                {locked ? 'Unlock' : 'Lock'}
              </button>
              <button type="button" className="btn-word" disabled={locked} aria-label={`${title}: match this part`} onClick={() => match.onFit?.(part)}>
                Match this part
              </button>
            </>
          )}
          {aside}
        </span>
      </div>
      {refusedIn(title, match.refused).map((says) => (
        <p key={says} role="alert" className="tight mb-1" style={{ color: 'var(--warn)' }}>
          {says}. It is not saved so; everything else is.
        </p>
      ))}
      <div className={whole ? 'part-whole' : 'part-body'}>{children}</div>
    </section>
  );
}
