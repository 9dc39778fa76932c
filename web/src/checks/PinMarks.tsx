// Pins on a drawing: its own, and those of the previous take where they lie on this one, with what became of them.
import type { Schemas } from '../api/client';

export const BECAME: Record<Schemas['Became'], string> = { fixed: '✓ fixed', 'still-there': 'still there', 'look-again': 'look again' };
const COLOUR: Record<Schemas['Became'], string> = { fixed: 'var(--ink-soft)', 'still-there': 'var(--stop)', 'look-again': 'var(--warn)' };
/** The letter of a pin: small for the drawing's own, capital for the previous take's. */
const letter = (i: number, from: number) => String.fromCharCode(from + (i % 26));
export const earlierLetter = (i: number) => letter(i, 65);

/** `k`: px of the drawing for one of the screen. */
export function PinMarks({ drawing, k }: { drawing: Schemas['DrawingView']; k: number }) {
  return (
    <>
      {drawing.earlier?.pins.map((q, i) => (
        <g key={i}>
          <title>
            previous take: {q.text} ({BECAME[q.became]})
          </title>
          <rect
            x={q.x - 9 * k}
            y={q.y - 9 * k}
            width={18 * k}
            height={18 * k}
            rx={3 * k}
            fill="var(--paper)"
            fillOpacity="0.85"
            stroke={COLOUR[q.became]}
            strokeWidth={1.8 * k}
            strokeDasharray={q.became === 'fixed' ? `${3 * k} ${2 * k}` : undefined}
          />
          <text x={q.x} y={q.y + 4.2 * k} textAnchor="middle" fontSize={12 * k} fill={COLOUR[q.became]} fontWeight="600">
            {earlierLetter(i)}
          </text>
        </g>
      ))}
      {drawing.pins.map((q, i) => (
        <g key={q.id}>
          <title>
            {q.by}: {q.text}
          </title>
          <rect x={q.x - 9 * k} y={q.y - 9 * k} width={18 * k} height={18 * k} rx={3 * k} fill="var(--stop)" />
          <text x={q.x} y={q.y + 4.2 * k} textAnchor="middle" fontSize={12 * k} fill="#fff" fontWeight="600">
            {letter(i, 97)}
          </text>
        </g>
      ))}
    </>
  );
}
