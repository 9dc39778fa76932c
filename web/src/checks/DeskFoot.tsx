// Under the drawing: what a click or a stroke does now, what the colours mean, and how what is shown through was laid on it.
import type { Tool } from './DrawingView';

const DOES: Record<Tool, string> = {
  note: 'Draw on the drawing: it is returned with the note',
  pin: 'Click where something is wrong',
  region: 'Drag a rectangle, or draw round what is to be left out',
  look: 'Click a line for its width along its length',
};

export function DeskFoot({ tool, line, laid }: { tool: Tool; line: boolean; laid: string[] }) {
  return (
    <div className="px-3 py-1 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
      {laid.map((says) => (
        <div key={says} role="note">
          {says}
        </div>
      ))}
      <div className="d-flex justify-content-between flex-wrap">
        <span>{tool === 'look' && line ? 'Esc closes the line' : DOES[tool]}</span>
        <span className="tight small">
          <span className="thin">▬ thinner</span> · <span style={{ color: 'var(--ink)' }}>▬ within</span> · <span className="heavy">▬ heavier</span> ·{' '}
          <span className="soft">▬ not measured</span>
        </span>
      </div>
    </div>
  );
}
