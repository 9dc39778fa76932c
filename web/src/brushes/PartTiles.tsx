// The brush's parts as tiles of one line each, the worst first: name and verdict, or what it is set to. One is open at a time.
import type { Schemas } from '../api/client';
import { type Brush, type MatchProps, type Part, refusedIn } from './Card';

/** A part that can be opened. */
export type Open = Exclude<Part, 'steadiness'> | 'stroke' | 'opacity';
export const NAMES: Record<Open | 'steadiness', string> = {
  weight: 'Weight',
  nib: 'Nib',
  pace: 'Pace',
  pooling: 'Pooling',
  'lead-in': 'Lead-in',
  'lead-out': 'Lead-out',
  edge: 'Edge',
  smoothing: 'Smoothing',
  stroke: 'Stroke kind',
  opacity: 'Opacity',
  steadiness: 'Steadiness',
};
const SHORT: Record<Schemas['PartMatch']['verdict'], string> = {
  alike: 'alike',
  differs: 'differs',
  'too-few': 'too few lines',
  'cannot-be-matched': 'cannot match',
};
const STROKES: Record<string, string> = { swept: 'swept nib', stamped: 'stamped tip', shaped: 'shape along it', 'dry-brush': 'dry brush', pixel: 'pixel' };
const SMOOTHINGS: Record<string, string> = { faired: 'after the stroke' };

/** What a part is set to, where no pen has a say in it. */
function state(brush: Brush, part: Open) {
  const kind = brush.smoothing?.position?.kind ?? 'none';
  if (part === 'smoothing') return SMOOTHINGS[kind] ?? kind;
  if (part === 'stroke') return STROKES[brush.stroke?.kind ?? 'swept'];
  if (part === 'opacity') {
    const o = brush.opacity ?? { floor: 1, full: 1 };
    return [`${(100 * o.full).toFixed(0)} %`, brush.chance && `± ${(100 * brush.chance.spread).toFixed(0)} %`].filter(Boolean).join(', ');
  }
  if (part === 'pace' || part === 'pooling') return brush[part] ? 'set' : 'none';
  if (part === 'lead-in' || part === 'lead-out') return brush[part === 'lead-in' ? 'lead_in' : 'lead_out'] ? 'set' : 'none';
  if (part === 'nib') return brush.nib.shape === 'ellipse' ? 'elliptical' : brush.nib.shape;
  return part === 'edge' ? (brush.edge?.strip_png ? 'strip' : brush.edge?.raggedness_um ? 'ragged' : 'smooth') : '';
}

type Props = { brush: Brush; order: Open[]; open: Open; match: MatchProps; onOpen: (part: Open) => void };

export function PartTiles({ brush, order, open, match, onOpen }: Props) {
  return (
    <div className="tiles" role="group" aria-label="parts of the brush">
      {order.map((part) => {
        const found = match.parts.find((p) => p.part === part);
        return (
          <button key={part} type="button" className="tile" aria-pressed={open === part} title={found?.says} onClick={() => onOpen(part)}>
            <span className="tile-name">
              {NAMES[part]}
              {match.locked.includes(part as Part) && <span title="locked"> ⊘</span>}
              {refusedIn(part === 'opacity' ? 'Opacity and random width' : NAMES[part], match.refused).length > 0 && (
                <span style={{ color: 'var(--warn)' }}> not saved</span>
              )}
            </span>
            <span className={found?.verdict === 'differs' || found?.verdict === 'cannot-be-matched' ? 'differs' : ''}>
              {found ? SHORT[found.verdict] : state(brush, part)}
            </span>
          </button>
        );
      })}
    </div>
  );
}
