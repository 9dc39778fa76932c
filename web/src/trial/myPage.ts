// What two pages' differences are said as: a sentence above, and a row each.
import type { Schemas } from '../api/client';

type Change = Schemas['Change'];
const percent = (v: number) => `${Math.abs(v) < 0.1 ? (100 * v).toFixed(1) : (100 * v).toFixed(0)} %`;
const share = (c: Change) => c.unit === '';
const isWidth = (c: Change) => c.figure.startsWith('width');

/** Both figures, and the difference with its interval: of widths in % of one's own page. */
export function said(c: Change): [string, string, string] {
  const show = (v: number) => (share(c) ? percent(v) : `${v.toFixed(isWidth(c) ? 3 : 1)} mm`);
  const [low, high] = [c.interval?.[0], c.interval?.[1]];
  if (low == null || high == null) return [show(c.before), show(c.after), 'too few lines to say'];
  const off = (v: number) => {
    const sign = v >= 0 ? '+' : '−';
    return isWidth(c) ? `${sign}${percent(Math.abs(v) / c.before)}` : `${sign}${show(Math.abs(v))}`;
  };
  return [show(c.before), show(c.after), `${c.changed ? 'differs' : 'no sure difference'}, ${off(low)} to ${off(high)}`];
}

/** What a reader takes away. */
export function headline(changes: Change[]): string {
  const of = (figure: string) => changes.find((c) => c.figure === figure);
  const parts: string[] = [];
  const middle = of('width, middle');
  const sure = changes.filter((c) => c.changed);
  const by = (c: Change) => percent(Math.abs(c.after / c.before - 1));
  if (middle?.changed) parts.push(`its lines are ${by(middle)} ${middle.after > middle.before ? 'heavier' : 'thinner'} than yours`);
  else {
    for (const [figure, name] of [
      ['width, thinnest tenth', 'thin'],
      ['width, widest tenth', 'wide'],
    ] as const) {
      const c = of(figure);
      if (c?.changed) parts.push(`its ${name} stretches are ${by(c)} ${c.after > c.before ? 'heavier' : 'thinner'} than yours`);
    }
  }
  const taper = of('taper, to 90 %');
  if (taper?.changed) parts.push(`its tapers are ${Math.abs(taper.after - taper.before).toFixed(1)} mm ${taper.after > taper.before ? 'longer' : 'shorter'}`);
  const ends = of('share of ends that taper');
  if (ends?.changed) parts.push(`${ends.after > ends.before ? 'more' : 'fewer'} of its ends taper (${percent(ends.after)}, yours ${percent(ends.before)})`);
  if (parts.length) return `The trial page: ${parts.join('; ')}.`;
  if (!changes.some((c) => c.interval)) return 'There are too few lines to compare the pages: ink at least five on each.';
  return sure.length ? 'The pages differ in single figures.' : 'No sure difference between the two pages.';
}
