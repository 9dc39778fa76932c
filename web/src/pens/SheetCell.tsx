// One cell of a sheet, large: where it was read, and its corners to be dragged where the corner marks put it wrong.
import { Button } from 'react-bootstrap';
import type { Schemas } from '../api/client';
import { cellState, SheetPicture } from './SheetPicture';

type Props = {
  sheet: Schemas['SheetView'];
  src: string;
  cell: Schemas['CellReading'];
  title: string;
  leftOut: string[];
  /** While they are dragged: the cell's corners in scan px. */
  corners: number[][] | null;
  busy: boolean;
  onCorners: (corners: number[][] | null) => void;
  /** Reads the cell at these corners, or where the corner marks put it. */
  onMark: (corners: number[][] | null) => void;
};

export function SheetCell({ sheet, src, cell, title, leftOut, corners, busy, onCorners, onMark }: Props) {
  return (
    <div className="card-plain mb-2">
      <h2>
        {title}: {cellState(cell, leftOut.includes(cell.id))}
      </h2>
      <div className="mt-1" style={{ border: '1px solid var(--hairline)' }}>
        <SheetPicture
          reading={sheet.reading}
          width={sheet.width_px}
          height={sheet.height_px}
          src={src}
          leftOut={leftOut}
          cell={cell.id}
          corners={corners}
          onCorners={onCorners}
        />
      </div>
      <div className="d-flex gap-2 mt-1 align-items-center flex-wrap tight">
        {corners ? (
          <>
            <span className="soft">Drag the four corners onto the cell’s printed frame (arrow keys move the one in focus), then</span>
            <Button size="sm" variant="paper" disabled={busy} onClick={() => onMark(corners)}>
              Read cell here
            </Button>
            <button type="button" className="btn-word" onClick={() => onCorners(null)}>
              Cancel
            </button>
          </>
        ) : (
          <button type="button" className="btn-word" onClick={() => onCorners(cell.corners_px)}>
            mark this cell’s place by hand
          </button>
        )}
        {cell.by_hand && !corners && (
          <button type="button" className="btn-word" disabled={busy} onClick={() => onMark(null)}>
            back to where the corner marks put it
          </button>
        )}
      </div>
    </div>
  );
}
