// Which drawings of a delivery are chosen together: a span that was drawn over the lanes, or one by one.

/** Their places, the first first. */
export type Chosen = number[];

/** All from one place to another, whichever comes first. */
export const span = (a: number, b: number): Chosen => Array.from({ length: Math.abs(a - b) + 1 }, (_, k) => Math.min(a, b) + k);

/** With this place, or without where it was among them; none left is no choice. */
export function toggled(chosen: Chosen | null, at: number): Chosen | null {
  const others = (chosen ?? []).filter((i) => i !== at);
  if (others.length === chosen?.length || !chosen) others.push(at);
  return others.length ? others.sort((a, b) => a - b) : null;
}

/** The far end of a span that ends at a place: what the next step of it is drawn from. */
export const farEnd = (chosen: Chosen | null, at: number) => (!chosen?.length ? at : chosen[0] === at ? (chosen[chosen.length - 1] ?? at) : (chosen[0] ?? at));

/** Whether they are all of a span. */
export const isSpan = (chosen: Chosen) => (chosen[chosen.length - 1] ?? 0) - (chosen[0] ?? 0) === chosen.length - 1;
