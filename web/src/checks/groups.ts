// A drawing's findings as rows: what has one kind and one role is one row that opens, where there are several.
import type { Schemas } from '../api/client';

type Finding = Schemas['Finding'];
export type Row = { key: string; of: number[] };

/** So many of a kind and role are listed one by one. */
const APART = 2;

/** Rows in the order of their first findings; what is intended stands by itself. */
export function rows(findings: Finding[]): Row[] {
  const keyOf = (f: Finding) => `${f.kind} ${f.role ?? ''}`;
  const groups = new Map<string, number[]>();
  findings.forEach((f, i) => {
    if (!f.dismissed) groups.set(keyOf(f), [...(groups.get(keyOf(f)) ?? []), i]);
  });
  const out: Row[] = [];
  const done = new Set<string>();
  findings.forEach((f, i) => {
    const own = groups.get(keyOf(f)) ?? [];
    if (f.dismissed || own.length <= APART) out.push({ key: String(i), of: [i] });
    else if (!done.has(keyOf(f))) {
      done.add(keyOf(f));
      out.push({ key: keyOf(f), of: own });
    }
  });
  return out;
}

/** What a group says: how many places, how long in all, and the worst figure. */
export function saysGroup(all: Finding[], worst: string) {
  const places = all.reduce((n, f) => n + Math.max(1, f.stretches?.length ?? 0), 0);
  const long = all.reduce((n, f) => n + (f.length_px ?? 0), 0);
  // The bracket at a message's end is what the guide asks.
  const asked = all[0]?.message.match(/\([^()]*\)$/)?.[0] ?? '';
  return `${places.toLocaleString()} places${long ? `, ${Math.round(long).toLocaleString()} px in all` : ''}; at worst ${worst} ${asked}`.trim();
}
