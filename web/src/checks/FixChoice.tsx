// What of a drawing that is returned must be fixed: all that the guide says, or only what the lead leaves ticked.
import { useState } from 'react';
import type { Schemas } from '../api/client';
import { rows } from './groups';
import type { Fix } from './useDecisions';

type Finding = Schemas['Finding'];
type Choice = { key: string; says: string; must: boolean; fix: Schemas['Fix'] };

/** The rows of the findings as choices; one that stands alone is named by its place. */
function choices(findings: Finding[]): Choice[] {
  return rows(findings).flatMap(({ key, of }) => {
    const [f] = of.flatMap((i) => findings[i] ?? []);
    if (!f || f.dismissed) return [];
    const name = `${f.kind}${f.role ? ` ${f.role}` : ''}`;
    const fix: Schemas['Fix'] = { kind: f.kind, role: f.role, at: of.length === 1 ? [f.x, f.y] : undefined };
    return [{ key, says: of.length === 1 ? `${(of[0] ?? 0) + 1} ${name}` : `${name}, all ${of.length}`, must: of.some((i) => findings[i]?.must_mend), fix }];
  });
}

export function useFixChoice(drawing: Schemas['DrawingView']) {
  const all = choices(drawing.check?.findings ?? []);
  const [flipped, setFlipped] = useState<Set<string>>(new Set());
  const on = (c: Choice) => c.must !== flipped.has(c.key);
  const flip = (key: string) => {
    const to = new Set(flipped);
    if (!to.delete(key)) to.add(key);
    setFlipped(to);
  };
  // As the guide has it, nothing is chosen: what a later check finds counts too.
  const fix: Fix = all.some((c) => flipped.has(c.key)) ? all.filter(on).map((c) => c.fix) : null;
  return { all, on, flip, fix, none: () => setFlipped(new Set(all.filter((c) => c.must).map((c) => c.key))) };
}

/** What was chosen, in words. */
export function saysFix(fix: Schemas['Fix'][]) {
  if (!fix.length) return 'only the note, nothing that was found';
  const names = [...new Set(fix.map((f) => `${f.kind}${f.role ? ` ${f.role}` : ''}`))];
  return `only these must be fixed: ${names.join(', ')}`;
}

export function FixChoice({ of }: { of: ReturnType<typeof useFixChoice> }) {
  if (!of.all.length) return null;
  return (
    <fieldset className="mt-1">
      <legend className="tight mb-0" style={{ fontSize: 'inherit' }}>
        Must be fixed{' '}
        <button type="button" className="btn-word" onClick={of.none}>
          Only the note
        </button>
      </legend>
      <div style={{ maxHeight: 96, overflowY: 'auto' }}>
        {of.all.map((c) => (
          <label key={c.key} className="d-flex gap-1">
            <input type="checkbox" checked={of.on(c)} onChange={() => of.flip(c.key)} /> {c.says}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
