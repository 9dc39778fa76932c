// A tip or a tooth drawn on the page: shapes with points and bends, laid down as the picture that a stamped tip takes.
import { useState } from 'react';
import { Button } from 'react-bootstrap';
import { tooth_of } from '../../engine/prebuilt/eddymist_wasm';
import { Figure } from '../parts/Figure';
import { useOpen } from '../session';
import { pathOfRings, type Ring, ringsFromPicture, ShapeEditor } from './ShapeEditor';

const SIDE = 128;
const ROUND: Ring[] = [Array.from({ length: 12 }, (_, i): [number, number] => [0.45 * Math.cos((i * Math.PI) / 6), 0.45 * Math.sin((i * Math.PI) / 6)])];
/** Fibres to begin with: three strands across one tile. */
const FIBRES: Ring[] = [-0.3, 0, 0.28].map((y, i) => [
  [-0.5, y - 0.06],
  [0.1 * (i - 1), y - 0.1],
  [0.5, y - 0.05],
  [0.5, y + 0.05],
  [0.1 * (1 - i), y + 0.07],
  [-0.5, y + 0.06],
]);

/** Shapes as a picture: coverage as alpha for a tip; for a tooth light on black, so that what was drawn is high. */
function pictureOf(rings: Ring[], soft: number, tooth: boolean) {
  const canvas = document.createElement('canvas');
  canvas.width = SIDE;
  canvas.height = SIDE;
  const c = canvas.getContext('2d');
  if (!c) return '';
  if (tooth) {
    c.fillStyle = '#000';
    c.fillRect(0, 0, SIDE, SIDE);
  }
  if (soft > 0) c.filter = `blur(${((soft / 100) * SIDE) / 4}px)`;
  c.fillStyle = tooth ? '#fff' : '#000';
  const path = new Path2D(pathOfRings(rings));
  // A tooth is a tile: what reaches over one side comes in at the other.
  for (const dx of tooth ? [-1, 0, 1] : [0])
    for (const dy of tooth ? [-1, 0, 1] : [0]) {
      c.setTransform(SIDE, 0, 0, SIDE, SIDE * (0.5 + dx), SIDE * (0.5 + dy));
      c.fill(path);
    }
  return canvas.toDataURL('image/png');
}

type Props = { kind: 'tip' | 'second tip' | 'paper tooth'; picture?: string | null; onDone: (uri: string) => void; onClose: () => void };

export function PictureDrawer({ kind, picture, onDone, onClose }: Props) {
  const { production } = useOpen();
  const tooth = kind === 'paper tooth';
  const [rings, setRings] = useState<Ring[]>(tooth ? FIBRES : ROUND);
  const [soft, setSoft] = useState(tooth ? 20 : 0);
  const [tile, setTile] = useState(3);
  const [says, setSays] = useState('');
  const repair = async () => {
    try {
      const bytes = Uint8Array.from(atob(picture?.split(',')[1] ?? ''), (c) => c.charCodeAt(0));
      const file = new File([bytes], 'tip.png', { type: 'image/png' });
      setRings((await ringsFromPicture(production.id, file)).rings);
      setSays('Its border was traced; shades within it are not kept.');
    } catch (error) {
      setSays(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="tight mt-2">
      <div style={{ maxWidth: 260 }}>
        <ShapeEditor label={kind} rings={rings} pieces holes reach={[0.5, 0.5]} onChange={(next) => setRings(next)} />
      </div>
      <div className="d-flex gap-3 align-items-center flex-wrap mt-1">
        <img src={pictureOf(rings, soft, tooth)} alt={`the ${kind} as drawn`} className="tip-picture" style={{ width: 64, height: 64 }} />
        <span>
          soft <Figure value={soft} digits={0} label={`softness of the ${kind}`} onValue={(v) => setSoft(Math.min(100, Math.max(0, v)))} /> %
        </span>
        {picture && !tooth && (
          <button type="button" className="btn-word" onClick={repair}>
            Edit current tip
          </button>
        )}
        {tooth && (
          <span>
            tile <Figure value={tile} digits={1} label="side of the tooth’s tile in mm" onValue={(v) => setTile(Math.min(200, Math.max(0.1, v)))} /> mm
          </span>
        )}
        <Button size="sm" variant="paper" onClick={() => onDone(tooth ? tooth_of(pictureOf(rings, soft, true), tile) : pictureOf(rings, soft, false))}>
          Use this {kind}
        </Button>
        <button type="button" className="btn-word" onClick={onClose}>
          Close
        </button>
      </div>
      <div className="soft" role="status">
        {says || (tooth ? 'What you draw is high and takes ink first; the tile repeats without a seam.' : 'The stroke runs to the right.')}
      </div>
    </div>
  );
}
