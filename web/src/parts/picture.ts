// How drawings, their lines and their standing are shown wherever they stand.
import type { Schemas } from '../api/client';

/** A drawing's standing in words. */
export const STANDING: Record<Schemas['DrawingSummary']['standing'], string> = {
  waiting: 'not measured yet',
  failed: 'could not be read',
  returned: 'returned',
  'handed-on': 'marked as ready',
  'goes-back': 'needs fixes, not decided',
  'may-go-on': 'passes, not decided',
  'not-checked': 'not checked, not decided',
  open: 'not decided: not all must-fix kinds were checked',
};

const VERDICTS: Record<Schemas['Verdict'], string> = {
  within: 'within',
  thin: 'thin',
  heavy: 'heavy',
  mixed: 'mixed',
  'too-close': 'too close to say',
  'not-checked': 'not checked',
};

/** A verdict in words; without one there was too little to say it of. */
export const verdictWords = (v: Schemas['Verdict'] | null | undefined) => (v ? VERDICTS[v] : 'too few drawings to say');

/** Where a drawing's picture is; browsers show PNG and SVG themselves. */
export const pictureUrl = (base: string, sha: string, file: string) => `${base}/images/${sha}${/\.(png|svg)$/i.test(file) ? '' : '/preview'}`;

/** A picture small enough to stand among others. */
export const smallUrl = (base: string, sha: string) => `${base}/images/${sha}/preview?small=true`;

const px = (v: number) => `${v.toFixed(1)} px`;
/** A finding's figure in the unit of its kind. */
export const FIGURE: Record<Schemas['FindingKind'], (v: number) => string> = {
  heavy: px,
  thin: px,
  gap: px,
  double: px,
  'soft-edge': px,
  'hard-edge': px,
  drift: px,
  uneven: (v) => `${(100 * v).toFixed(0)} %`,
  boil: (v) => `${(100 * v).toFixed(0)} %`,
  hook: (v) => `${v.toFixed(0)}°`,
  speck: (v) => `${v.toFixed(1)} px²`,
  pinhole: (v) => `${v.toFixed(1)} px²`,
  'off-palette': (v) => `${v.toFixed(0)} ΔE`,
  'blunt-end': (v) => `${v.toFixed(1)} widths`,
  'tapered-end': (v) => `${v.toFixed(1)} widths`,
};

/** A place of a line: px of the drawing. */
export type Place = { line: number; i: number; x: number; y: number; width: number; standing: string };

/** Place `i` of a line. */
export function placeOf(lines: Schemas['WeighedLine'][], line: number, i: number): Place {
  const l = lines[line];
  const at = (k: number) => (l?.places[3 * i + k] ?? 0) / 10;
  return { line, i, x: at(0), y: at(1), width: at(2), standing: l?.standing[i] ?? '-' };
}

const CELL = 32;

/** Finds the place nearest to a point, within some px. */
export function finder(lines: Schemas['WeighedLine'][]) {
  const cells = new Map<string, [number, number][]>();
  lines.forEach((l, k) => {
    for (let i = 0; 3 * i < l.places.length; i++) {
      const key = `${Math.floor((l.places[3 * i] ?? 0) / 10 / CELL)} ${Math.floor((l.places[3 * i + 1] ?? 0) / 10 / CELL)}`;
      const cell = cells.get(key);
      if (cell) cell.push([k, i]);
      else cells.set(key, [[k, i]]);
    }
  });
  return (x: number, y: number, reach: number): Place | null => {
    let best: Place | null = null;
    let least = reach;
    const n = Math.ceil(reach / CELL);
    const [cx, cy] = [Math.floor(x / CELL), Math.floor(y / CELL)];
    for (let i = cx - n; i <= cx + n; i++)
      for (let j = cy - n; j <= cy + n; j++)
        for (const [line, at] of cells.get(`${i} ${j}`) ?? []) {
          const p = placeOf(lines, line, at);
          const d = Math.hypot(p.x - x, p.y - y);
          if (d < least) {
            least = d;
            best = p;
          }
        }
    return best;
  };
}

/** The normal of a line at a place, in degrees. */
export function normalAt(lines: Schemas['WeighedLine'][], p: Place) {
  const n = (lines[p.line]?.places.length ?? 0) / 3;
  const [a, b] = [placeOf(lines, p.line, Math.max(0, p.i - 2)), placeOf(lines, p.line, Math.min(n - 1, p.i + 2))];
  return (Math.atan2(b.x - a.x, -(b.y - a.y)) * 180) / Math.PI;
}

export type Run = { line: number; standing: string; d: string; width: number };

/** Runs of one standing along lines, as one path each. */
export function runs(lines: Schemas['WeighedLine'][]): Run[] {
  return lines.flatMap((l, line) => {
    const out: Run[] = [];
    let from = 0;
    for (let i = 1; i <= l.standing.length; i++) {
      if (i < l.standing.length && l.standing[i] === l.standing[from]) continue;
      const to = Math.min(i, l.standing.length - 1);
      let d = '';
      let width = 0;
      for (let k = from; k <= to; k++) {
        d += `${k === from ? 'M' : 'L'}${(l.places[3 * k] ?? 0) / 10} ${(l.places[3 * k + 1] ?? 0) / 10}`;
        width += (l.places[3 * k + 2] ?? 0) / 10;
      }
      out.push({ line, standing: l.standing[from] ?? '-', d, width: width / (to - from + 1) });
      from = i;
    }
    return out;
  });
}

/** The kinds that are found on single drawings, in the order of the document. */
export const KINDS = (Object.keys(FIGURE) as Schemas['FindingKind'][]).filter((k) => k !== 'drift' && k !== 'boil');
