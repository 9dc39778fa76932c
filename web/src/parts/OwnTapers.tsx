// A stroke's own tapers: their lengths where they are not its brush's, and back to the brush's.
import type { Schemas } from '../api/client';
import type { Tapers } from '../engine/engine';
import { Figure } from './Figure';

type Props = { own: Tapers | undefined; brush: Schemas['Brush'] | undefined; onChange: (v: Tapers) => void };

const ENDS = [
  ['lead-in', 'lead_in_mm', 'lead_in'],
  ['lead-out', 'lead_out_mm', 'lead_out'],
] as const;

export function OwnTapers({ own, brush, onChange }: Props) {
  return ENDS.map(([word, key, of]) => {
    const mine = own?.[key] ?? null;
    return (
      <div className="figure-row" key={key}>
        <span>{word}</span>
        <span>
          {mine !== null && (
            <button type="button" className="btn-word me-2" aria-label={`${word} as the brush has it`} onClick={() => onChange({ [key]: null })}>
              As the brush
            </button>
          )}
          <b>
            <Figure
              value={mine ?? brush?.[of]?.length_mm ?? 0}
              digits={2}
              label={`${word} of the strokes`}
              range={[0, 1000]}
              onValue={(v) => onChange({ [key]: v })}
            />{' '}
            mm
          </b>
        </span>
      </div>
    );
  });
}
