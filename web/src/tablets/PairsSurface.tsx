// Where the strokes are drawn: over the scan, in its millimetres, or on the bare tablet under a sheet of paper.

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import type { Samples } from '../engine/engine';
import { MM_PER_PX } from '../engine/engine';
import { Sheet, type SheetHandle } from '../engine/Sheet';
import { drawnBy, useEngine } from '../engine/useEngine';
import { ViewBar } from '../engine/ViewBar';
import type { View } from '../engine/view';
import { useScreenScale } from '../parts/screen';
import { useOpen } from '../session';
import { Beats } from './Beats';
import { GoneOver } from './GoneOver';
import type { PageScan, Way } from './pairsPage';
import { PLAIN_BRUSH } from './warmUpSteps';

type Props = {
  way: Way;
  scan: PageScan | null;
  strokes: Samples[];
  response: number[][];
  /** The strokes came as a file. */
  recorded: boolean;
  onStrokes: (strokes: Samples[]) => void;
};

const HEIGHT = 380;

export function PairsSurface({ way, scan, strokes, response, recorded, onStrokes }: Props) {
  const { production } = useOpen();
  const { engine } = useEngine(PLAIN_BRUSH, response);
  const shown = useMemo(() => drawnBy(engine, strokes, '#0f7a70'), [engine, strokes]);
  const [picture, setPicture] = useState<HTMLImageElement | null>(null);
  const [view, setView] = useState<View | null>(null);
  const sheet = useRef<SheetHandle | null>(null);
  const screen = useScreenScale();
  const over = way === 'over' && scan;
  const size = useMemo(() => (over ? ([(scan.width_px * 25.4) / scan.dpi, (scan.height_px * 25.4) / scan.dpi] as [number, number]) : undefined), [over, scan]);
  useEffect(() => {
    setPicture(null);
    if (!over) return;
    const p = new Image();
    p.src = `/api/v1/productions/${production.id}/images/${scan.sha256}/preview`;
    p.decode().then(
      () => setPicture(p),
      () => undefined,
    );
  }, [over, scan, production.id]);
  const under = useCallback(
    (c: CanvasRenderingContext2D, [w, h]: [number, number]) => {
      if (!picture) return;
      c.globalAlpha = 0.55;
      c.drawImage(picture, 0, 0, w, h);
      c.globalAlpha = 1;
    },
    [picture],
  );
  return (
    <div className="lanes mb-2">
      <div className="lane">
        <div className="gutter">
          <b>{recorded ? 'recorded strokes' : `${strokes.length} ${strokes.length === 1 ? 'stroke' : 'strokes'}`}</b>
          <span>
            {way === 'over'
              ? scan
                ? 'at true size the hand does what it does on paper'
                : 'no scan lies under the stylus yet'
              : 'the sheet lies on the tablet: look at it, not at the screen'}
          </span>
          {over && !recorded && <GoneOver scan={scan} strokes={strokes} />}
          {!recorded && <Beats />}
          <span className="d-flex gap-1 mt-2 flex-wrap">
            <Button variant="paper" size="sm" disabled={!strokes.length} onClick={() => onStrokes(strokes.slice(0, -1))}>
              Undo last stroke
            </Button>
            <Button variant="paper" size="sm" disabled={!strokes.length && !recorded} onClick={() => onStrokes([])}>
              Discard strokes
            </Button>
          </span>
        </div>
        <Sheet
          key={size ? `${scan?.sha256}` : way}
          ref={sheet}
          page={size}
          fixed={!size}
          height={HEIGHT}
          engine={engine}
          strokes={shown}
          colour="#0f7a70"
          under={under}
          onView={setView}
          onStroke={(s) => onStrokes([...strokes, s])}
          label={way === 'over' ? 'surface over the scan' : 'surface under the paper'}
        />
      </div>
      {size && (
        <div className="tight px-2 py-1">
          <ViewBar sheet={sheet} view={view} whole={1 / MM_PER_PX} trueScale={screen.matched ? screen.pxPerMm : null} />
        </div>
      )}
    </div>
  );
}
