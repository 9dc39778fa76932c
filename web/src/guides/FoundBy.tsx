// What tells a role's ink from the others': its colour within a tolerance, its layer, its outline, or that nothing else claims it.
import type { Schemas } from '../api/client';
import { Figure } from '../parts/Figure';

type Role = Schemas['Role'];
type Told = 'colour' | 'layer' | 'outline' | 'rest';

const toldBy = (r: Role): Told => (r.from.colour != null ? 'colour' : r.from.layer != null ? 'layer' : r.from.outline ? 'outline' : 'rest');
export const FOUND: Record<Told, Role['from']> = {
  colour: { colour: '#336633', tolerance: 8 },
  layer: { layer: 'name*' },
  outline: { outline: true },
  rest: { rest: true },
};

/** A colour as it is written: `#` may be left out, and three digits stand for six; null where it is none. */
export function colourOf(text: string): string | null {
  const digits = text.trim().replace(/^#/, '').toLowerCase();
  if (/^[0-9a-f]{6}$/.test(digits)) return `#${digits}`;
  return /^[0-9a-f]{3}$/.test(digits) ? `#${[...digits].map((d) => d + d).join('')}` : null;
}

export function FoundBy({ role, lead, onChange }: { role: Role; lead: boolean; onChange: (from: Role['from']) => void }) {
  const { from } = role;
  return (
    <>
      <select
        className="figure"
        style={{ width: 70, textAlign: 'left' }}
        aria-label={`how ${role.name} is found`}
        disabled={!lead}
        value={toldBy(role)}
        onChange={(e) => onChange(FOUND[e.target.value as Told])}
      >
        <option value="colour">colour</option>
        <option value="layer">layer</option>
        <option value="outline">outline</option>
        <option value="rest">the rest</option>
      </select>{' '}
      {from.colour != null ? (
        <>
          <input
            type="color"
            aria-label={`colour of ${role.name}`}
            title={from.colour}
            disabled={!lead}
            value={from.colour}
            onChange={(e) => onChange({ ...from, colour: e.target.value })}
            style={{ width: 26, height: 26, border: 0, padding: 0, verticalAlign: 'middle' }}
          />
          <input
            key={from.colour}
            className="figure"
            style={{ width: 68, textAlign: 'left' }}
            aria-label={`colour of ${role.name}, written`}
            disabled={!lead}
            defaultValue={from.colour}
            onBlur={(e) => {
              const colour = colourOf(e.target.value);
              if (colour && colour !== from.colour) onChange({ ...from, colour });
              else e.target.value = from.colour ?? '';
            }}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          />{' '}
          <span className="soft">± ΔE</span>{' '}
          <Figure
            value={from.tolerance ?? 6}
            digits={0}
            width={36}
            label={`colour tolerance of ${role.name}`}
            disabled={!lead}
            onValue={(tolerance) => onChange({ ...from, tolerance })}
          />
        </>
      ) : from.layer != null ? (
        <input
          className="figure"
          style={{ width: 100, textAlign: 'left' }}
          aria-label={`layer name of ${role.name}, * for any characters`}
          disabled={!lead}
          value={from.layer}
          onChange={(e) => onChange({ layer: e.target.value })}
        />
      ) : null}
    </>
  );
}
