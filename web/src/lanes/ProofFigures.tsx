// The proof figures of one brush, on screen: every figure in its place with its name.
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { loadEngine, PROOF_MM, type ProofFigure, proof, type Samples } from '../engine/engine';
import { InkShapes, useInk } from './InkedStrokes';

export function useProof() {
  const [figures, setFigures] = useState<{ strokes: Samples[]; figures: ProofFigure[] }>();
  useEffect(() => {
    loadEngine().then(() => setFigures(proof()));
  }, []);
  return figures;
}

type Props = {
  brush: Schemas['Brush'];
  label: string;
  /** Drawn over the same strokes in this colour, where two are compared. */
  over?: { brush: Schemas['Brush']; colour: string; under: string };
  /** Strokes in place of the figures. */
  strokes?: Samples[];
  /** Width and height shown, mm. */
  size?: readonly [number, number];
  widthPx?: number;
};

export function ProofFigures({ brush, label, over, strokes, size = PROOF_MM, widthPx }: Props) {
  const figures = useProof();
  const shown = strokes ?? figures?.strokes;
  const ink = useInk(brush, null, shown);
  const second = useInk(over?.brush, null, shown);
  if (typeof ink === 'string') return <p className="notice">{ink}</p>;
  return (
    <svg
      viewBox={`0 -2 ${size[0]} ${size[1] + 2}`}
      width={widthPx ?? '100%'}
      role="img"
      aria-label={label}
      style={{ background: 'var(--paper)', display: 'block' }}
    >
      {!strokes &&
        figures?.figures.map((f) => (
          <text key={f.name} x={f.at[0]} y={f.at[1] - 0.2} fontSize="2" fill="var(--ink-soft)" fontFamily="var(--tight)">
            {f.name}
          </text>
        ))}
      <InkShapes ink={ink} colour={over ? over.under : (brush.colour ?? '#000000')} />
      {over && (
        <g style={{ mixBlendMode: 'multiply' }}>
          <InkShapes ink={second} colour={over.colour} />
        </g>
      )}
    </svg>
  );
}
