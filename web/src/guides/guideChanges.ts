// What differs between two versions of a guide, in words.
import type { Schemas } from '../api/client';
import { regionPlace } from './regionPlace';

type Guide = Schemas['LineGuide'];

/** Shares are told in per cent. */
const SHARES = /› (tolerance|uneven|boil|least_measured)$/;
const told = (value: unknown, path: string) =>
  typeof value === 'number' && SHARES.test(path) && !path.endsWith('from › tolerance') ? `${Number((100 * value).toPrecision(6))} %` : String(value);

function flat(value: unknown, path: string, out: Map<string, string>) {
  if (Array.isArray(value)) {
    const named = value.every((v) => v && typeof v === 'object' && 'name' in v);
    if (path.endsWith('› points')) out.set(path.replace(/ › points$/, ''), regionPlace(value as number[][]));
    else if (named) for (const v of value) flat(v, `${path}${path ? ' › ' : ''}${(v as { name: string }).name}`, out);
    else out.set(path, value.join(', ') || 'none');
  } else if (value && typeof value === 'object') {
    for (const [k, v] of Object.entries(value)) if (!(k === 'name' && path)) flat(v, path === 'roles' || !path ? k : `${path} › ${k}`, out);
  } else if (value !== null && value !== undefined && value !== '') out.set(path, told(value, path));
}

/** Every field that differs, with what it was and what it is. */
export function guideChanges(before: Guide, after: Guide): { field: string; was: string; is: string }[] {
  const [a, b] = [new Map<string, string>(), new Map<string, string>()];
  flat(before, '', a);
  flat(after, '', b);
  const words = (f: string) =>
    f
      .replace(/^roles › /, '')
      .replace(/ › weight_px › (target|tolerance|swell)$/, (_, x) => `: ${x}${x === 'tolerance' ? '' : ' px'}`)
      .replace(/ › from › (\w+)$/, (_, x) => `: found by ${x}`)
      .replace(/^must_mend$/, 'must fix')
      .replace(/^limits › /, 'limit: ')
      .replace(/_px2?|_mm|_fps/g, (u) => ({ _px: ' px', _px2: ' px²', _mm: ' mm', _fps: '' })[u] ?? '')
      .replace(/_/g, ' ')
      .replace(' › ', ': ')
      .replace(/ › /g, ' ');
  return [...new Set([...a.keys(), ...b.keys()])]
    .filter((f) => a.get(f) !== b.get(f))
    .map((f) => ({ field: words(f), was: a.get(f) ?? 'not there', is: b.get(f) ?? 'not there' }));
}
