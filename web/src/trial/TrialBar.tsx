// Above a trial page: the pass, the brush, an edge to draw along, and choosing instead of drawing.
import type { ReactNode } from 'react';
import type { useInk } from './useInk';

type Edge = '' | 'straight' | 'arc';
type Props = {
  ink: ReturnType<typeof useInk>;
  pointing: boolean;
  setPointing: (on: boolean) => void;
  edge: Edge;
  setEdge: (e: Edge) => void;
  other: string;
  setOther: (id: string) => void;
  onRole: (role: string) => void;
  children: ReactNode;
};

const EDGES: [Edge, string][] = [
  ['', 'by hand'],
  ['straight', 'straight edge'],
  ['arc', 'arc'],
];

export function TrialBar({ ink, pointing, setPointing, edge, setEdge, other, setOther, onRole, children }: Props) {
  const { passes, current, rack, first } = ink;
  return (
    <div className="trial-bar tight">
      <span className="tabs" role="group" aria-label="line role">
        {(passes.length ? passes : current ? [current] : []).map((p) => (
          <button
            key={p.role}
            type="button"
            aria-pressed={!pointing && current?.role === p.role}
            onClick={() => {
              onRole(p.role);
              setPointing(false);
              setOther('');
            }}
          >
            <span className="swatch" style={{ background: p.colour }} /> {p.role}
          </button>
        ))}
      </span>
      <select className="form-select form-select-sm tight w-auto" aria-label="brush" value={other} onChange={(e) => setOther(e.target.value)}>
        <option value="">{passes.length ? 'the roll’s brush' : (first?.name ?? 'no brush')}</option>
        {rack.data?.map((b) => (
          <option key={b.id} value={b.id}>
            {b.name}
          </option>
        ))}
      </select>
      <span className="tabs" role="group" aria-label="edge to draw along">
        {EDGES.map(([k, word]) => (
          <button
            key={k}
            type="button"
            aria-pressed={!pointing && edge === k}
            onClick={() => {
              setEdge(k);
              setPointing(false);
            }}
          >
            {word}
          </button>
        ))}
      </span>
      <span className="tabs">
        <button type="button" aria-pressed={pointing} onClick={() => setPointing(!pointing)}>
          choose strokes
        </button>
      </span>
      {children}
    </div>
  );
}
