// The stroke that shows a brush wherever brushes are listed.
import type { Schemas } from '../api/client';
import { InkShapes, useInk } from './InkedStrokes';

/** A stroke that swells and runs out: what a brush is shown by. */
const PROOF = Array.from({ length: 121 }, (_, i) => {
  const u = i / 120;
  return [u * 900, 4 + u * 62, 7 + 4.2 * Math.sin(u * 6.3), Math.sin(Math.PI * u) ** 0.8, Number.NaN, Number.NaN];
}).flat();

const STROKES = [PROOF];

export function ProofStroke({ brush, height }: { brush: Schemas['Brush']; height: number }) {
  const ink = useInk(brush, null, STROKES);
  if (typeof ink === 'string') return <span className="soft tight">{ink}</span>;
  return (
    <svg viewBox="0 0 70 14" height={height} role="img" aria-label={`proof stroke of ${brush.name}`}>
      <InkShapes ink={ink} colour={brush.colour ?? '#000000'} />
    </svg>
  );
}
