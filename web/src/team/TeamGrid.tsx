// Artists by roles: in each role's column one band runs down through all rows, so that dots that should agree stand above one another.
import { useState } from 'react';
import type { Schemas } from '../api/client';
import { verdictWords } from '../parts/picture';
import { pair } from '../parts/states';

type Look = Schemas['TeamLook'];
type Standing = Schemas['TeamStanding'];
type Weight = Schemas['Weight'];

const AT_FIRST = 24;

/** Share of a cell's width at which a weight lies, of a range in shares of the target. */
function across(px: number, w: Weight, range: number) {
  return 50 + 48 * Math.max(-1, Math.min(1, (px / w.target - 1) / range));
}

export function colourOf(verdict: string | null | undefined) {
  return verdict === 'heavy' ? 'var(--heavy)' : verdict === 'thin' ? 'var(--thin)' : 'var(--ink)';
}

function Dot({ s, w, range }: { s: Standing; w: Weight; range: number }) {
  const c = colourOf(s.verdict);
  const [a, b] = pair(s.now_interval_px ?? [s.now_px, s.now_px]);
  return (
    <svg width="100%" height="20" aria-hidden>
      {s.since && <circle cx={`${across(s.since.before_px, w, range)}%`} cy="10" r="3.2" fill="none" stroke="var(--ink-faint)" strokeWidth="1.2" />}
      <line x1={`${across(a, w, range)}%`} x2={`${across(b, w, range)}%`} y1="10" y2="10" stroke={c} strokeWidth="2" />
      <circle cx={`${across(s.now_px, w, range)}%`} cy="10" r="4.2" fill={c} />
    </svg>
  );
}

export function TeamGrid({
  look,
  picked,
  onPick,
}: {
  look: Look;
  picked: { name: string; role: string } | null;
  onPick: (name: string, role: string) => void;
}) {
  const [all, setAll] = useState(false);
  const differs = new Map(look.sentences.map((s, i) => [s.name, i]));
  const names = [...look.groups].sort((a, b) => (differs.get(a) ?? 1e6) - (differs.get(b) ?? 1e6) || a.localeCompare(b));
  const shown = all ? names : names.slice(0, AT_FIRST);
  const roles = look.roles.filter((r) => r.standings.length > 0);
  const ranges = roles.map((r) => {
    const far = r.standings.flatMap((s) => [s.now_px, s.now_interval_px?.[0] ?? s.now_px, s.now_interval_px?.[1] ?? s.now_px]);
    // All dots are on it, but for intervals of three times the tolerance and more.
    return Math.min(Math.max(r.weight.tolerance * 1.8, ...far.map((px) => Math.abs(px / r.weight.target - 1) * 1.06)), r.weight.tolerance * 3.2);
  });
  return (
    <section aria-label={`${look.by}s by line roles`}>
      <div className="team-grid lanes" style={{ gridTemplateColumns: `minmax(110px, 1fr) repeat(${roles.length}, minmax(150px, 2fr))` }}>
        <div className="cap">
          <b>{look.by}</b>
          <span>dot: mean, line: its 95 % interval</span>
        </div>
        {roles.map((r, k) => {
          const range = ranges[k] as number;
          return (
            <div key={r.role} className="cap">
              <b>{r.role}</b>
              <span>
                {r.weight.target.toFixed(1)} px ±{(100 * r.weight.tolerance).toFixed(0)} % · edges at ∓{(100 * range).toFixed(0)} %
              </span>
            </div>
          );
        })}
        {shown.map((name) => (
          <Row key={name} name={name} roles={roles} ranges={ranges} picked={picked?.name === name ? picked.role : null} onPick={(r) => onPick(name, r)} />
        ))}
      </div>
      {names.length > AT_FIRST && (
        <button type="button" className="btn-word mt-1" onClick={() => setAll(!all)}>
          {all ? `Show the first ${AT_FIRST}` : `Show all ${names.length}`}
        </button>
      )}
    </section>
  );
}

function Row({
  name,
  roles,
  ranges,
  picked,
  onPick,
}: {
  name: string;
  roles: Look['roles'];
  ranges: number[];
  picked: string | null;
  onPick: (role: string) => void;
}) {
  return (
    <>
      <div className="name">{name}</div>
      {roles.map((r, k) => {
        const s = r.standings.find((x) => x.name === name);
        const range = ranges[k] as number;
        const [lo, hi] = [
          across(r.weight.target * (1 - r.weight.tolerance), r.weight, range),
          across(r.weight.target * (1 + r.weight.tolerance), r.weight, range),
        ];
        const band = `linear-gradient(90deg, transparent ${lo}%, var(--band) ${lo}%, var(--band) 49.8%, var(--band-edge) 49.8%, var(--band-edge) 50.2%, var(--band) 50.2%, var(--band) ${hi}%, transparent ${hi}%)`;
        if (!s)
          return (
            <div key={r.role} className="cell soft" style={{ background: band }}>
              not drawn
            </div>
          );
        const n = s.since ? `${s.since.drawings} of ${s.drawings}` : `${s.drawings}`;
        return (
          <button
            key={r.role}
            type="button"
            className={`cell ${picked === r.role ? 'picked' : ''}`}
            style={{ background: band }}
            aria-pressed={picked === r.role}
            aria-label={`${name}, ${r.role}: ${s.now_px.toFixed(2)} px, ${verdictWords(s.verdict)}, ${n} drawings`}
            onClick={() => onPick(r.role)}
          >
            <Dot s={s} w={r.weight} range={range} />
            <span className="says" style={{ color: colourOf(s.verdict) }}>
              {s.now_px.toFixed(2)} px{s.verdict === 'heavy' || s.verdict === 'thin' ? ` ${s.verdict}` : ''}{' '}
              <span className="soft">
                {n} {s.drawings === 1 ? 'drawing' : 'drawings'}
              </span>
            </span>
          </button>
        );
      })}
    </>
  );
}
