// A handle in a drawing: dragged where it stands, moved by arrow keys, and told in words what it holds.
import { useRef } from 'react';

type Props = {
  x: number;
  y: number;
  label: string;
  value: number;
  text: string;
  disabled?: boolean;
  /** Where it was dragged to, in the drawing's own units, and from where the drag began. */
  onDrag: (to: [number, number], from: [number, number], done: boolean) => void;
  /** One step by an arrow key; ten times as far with shift. */
  onStep: (steps: number) => void;
};

export function Handle({ x, y, label, value, text, disabled, onDrag, onStep }: Props) {
  const begun = useRef<[number, number] | null>(null);
  const at = (e: React.PointerEvent<SVGCircleElement>): [number, number] => {
    const svg = e.currentTarget.ownerSVGElement;
    const m = svg?.getScreenCTM()?.inverse();
    const p = m ? new DOMPoint(e.clientX, e.clientY).matrixTransform(m) : { x: 0, y: 0 };
    return [p.x, p.y];
  };
  return (
    <circle
      cx={x}
      cy={y}
      r="4.5"
      fill="var(--paper)"
      stroke="var(--eddy)"
      strokeWidth="2"
      tabIndex={disabled ? -1 : 0}
      role="slider"
      aria-label={label}
      aria-valuenow={value}
      aria-valuetext={text}
      style={{ cursor: 'grab', touchAction: 'none' }}
      onPointerDown={(e) => {
        if (disabled) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        begun.current = at(e);
      }}
      onPointerMove={(e) => begun.current && onDrag(at(e), begun.current, false)}
      onPointerUp={(e) => {
        if (begun.current) onDrag(at(e), begun.current, true);
        begun.current = null;
      }}
      onKeyDown={(e) => {
        const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
        if (disabled || !way) return;
        e.preventDefault();
        onStep(way * (e.shiftKey ? 10 : 1));
      }}
    />
  );
}
