// Matching the screen to a card held against it, so that lines are shown at their true size.
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { CARD_MM } from '../parts/screen';

type Props = { pxPerMm: number; onKeep: (pxPerMm: number) => void; onClose: () => void };

export function ScreenMatch({ pxPerMm, onKeep, onClose }: Props) {
  const [scale, setScale] = useState(pxPerMm);
  return (
    <div className="card-plain mb-2">
      <h2>Match the screen to a card</h2>
      <p className="soft tight mb-2">
        Hold a bank card against the outline and drag the slider, or use the arrow keys, until both are the same size. It stays matched on this screen.
      </p>
      <svg width={CARD_MM[0] * scale} height={CARD_MM[1] * scale} style={{ display: 'block', maxWidth: 'none' }} role="img" aria-label="outline of a card">
        <rect
          x="1"
          y="1"
          width={CARD_MM[0] * scale - 2}
          height={CARD_MM[1] * scale - 2}
          rx={3.18 * scale}
          fill="var(--sill)"
          stroke="var(--ink)"
          strokeWidth="1.5"
        />
      </svg>
      <div className="d-flex gap-3 align-items-center mt-2">
        <Form.Range
          aria-label="size of the card"
          min={2}
          max={14}
          step={0.01}
          value={scale}
          onChange={(e) => setScale(Number(e.target.value))}
          style={{ maxWidth: 420 }}
        />
        <span className="tight soft">{scale.toFixed(2)} px a mm</span>
        <Button
          size="sm"
          variant="paper"
          onClick={() => {
            onKeep(scale);
            onClose();
          }}
        >
          Use this size
        </Button>
        <button type="button" className="btn-word" onClick={onClose}>
          Cancel
        </button>
      </div>
    </div>
  );
}
