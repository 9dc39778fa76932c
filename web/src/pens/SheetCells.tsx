// The cells of a sheet as a table: what each told, and whether it counts.
import { Form } from 'react-bootstrap';
import type { Schemas } from '../api/client';

type Props = {
  cells: Schemas['CellReading'][];
  title: (id: string) => string;
  leftOut: string[];
  onChoose: (id: string) => void;
  onToggle: (id: string) => void;
};

export function SheetCells({ cells, title, leftOut, onChoose, onToggle }: Props) {
  return (
    <table className="table table-sm align-middle mb-0" style={{ background: 'var(--paper)' }}>
      <thead>
        <tr>
          <th>cell</th>
          <th>what was read</th>
          <th className="text-end">counts</th>
        </tr>
      </thead>
      <tbody>
        {cells.map((c) => (
          <tr key={c.id}>
            <td>
              <button type="button" className="btn-word" onClick={() => onChoose(c.id)}>
                {title(c.id)}
              </button>
            </td>
            <td>
              {inWords(c)}
              {c.by_hand && <span className="soft"> · place marked by hand</span>}
              {c.says?.map((s) => (
                <div key={s} style={{ color: 'var(--warn)' }}>
                  {s}
                </div>
              ))}
            </td>
            <td className="text-end">
              <Form.Check aria-label={`${title(c.id)} counts`} checked={!leftOut.includes(c.id)} onChange={() => onToggle(c.id)} className="d-inline-block" />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What a cell told, in a few words. */
function inWords(c: Schemas['CellReading']) {
  const bodies = c.strokes.map((s) => s.body?.width_mm).filter((w): w is number => w != null);
  const range = (v: number[]) => `${Math.min(...v).toFixed(3)} – ${Math.max(...v).toFixed(3)} mm`;
  if (bodies.length) return `${bodies.length} lines, ${range(bodies)}`;
  const dots = c.strokes.map((s) => s.dot_mm).filter((d): d is number => d != null);
  if (dots.length) return `${dots.length} dots, ${range(dots)}`;
  if (c.by_direction?.length) return `a ring, ${range(c.by_direction.map((d) => d[1] ?? 0))}`;
  if (c.coarseness)
    return `${(100 * (c.tone ?? 0)).toFixed(0)} % inked, lines of ${c.coarseness.width.toFixed(2)} mm, ${c.coarseness.clear.toFixed(2)} mm clear`;
  if (c.tone != null) return `${(100 * c.tone).toFixed(0)} % inked`;
  if (c.free?.length) {
    const w = c.free.flatMap((l) => l.width_mm);
    return `a free line, ${range(w)}`;
  }
  if (c.strokes.length) return `${c.strokes.length} strokes`;
  return c.kind === 'signature' ? 'no line in it' : '';
}
