// How a sheet is seen: smaller, larger, all of it, at its own pixels or at true size, turned and mirrored; what the pen's button does.
import { useState } from 'react';
import { type Barrel, barrel, penSeen, setBarrel } from './pointers';
import type { SheetHandle } from './useSeen';
import type { View } from './view';

type Props = {
  sheet: React.RefObject<SheetHandle | null>;
  view: View | null;
  /** Element px to a mm at which 100 % is reached. */
  whole: number;
  /** Element px to a mm at true size, once the screen is matched to a card. */
  trueScale?: number | null;
  /** Whether what is seen is a page. */
  page?: boolean;
};

const TURN = Math.PI / 12;

export function ViewBar({ sheet, view, whole, trueScale, page }: Props) {
  const [button, setButton] = useState(barrel);
  const share = view ? view.scale / whole : 1;
  const at = (k: number) => Math.abs(share / k - 1) < 1e-3;
  const turned = view && (view.mirror || Math.abs(view.turn % (2 * Math.PI)) > 1e-6);
  return (
    <span className="d-inline-flex gap-2 align-items-center flex-wrap">
      <span role="group" aria-label="zoom" className="tabs">
        <button type="button" aria-label="zoom out" title="− · or the wheel" onClick={() => sheet.current?.zoomBy(0.8)}>
          −
        </button>
        <button
          type="button"
          aria-pressed={at(1)}
          aria-label={page ? 'one pixel of the page to one of the screen' : 'at 96 px to the inch'}
          onClick={() => sheet.current?.zoomTo(whole)}
        >
          {(100 * share).toFixed(0)} %
        </button>
        <button type="button" aria-label="zoom in" title="+ · or the wheel" onClick={() => sheet.current?.zoomBy(1.25)}>
          +
        </button>
        <button type="button" title="Home" onClick={() => sheet.current?.showAll()}>
          Show all
        </button>
        {trueScale !== undefined && (
          <button
            type="button"
            disabled={!trueScale}
            aria-pressed={!!trueScale && !!view && Math.abs(view.scale / trueScale - 1) < 1e-3}
            title={trueScale ? undefined : 'Match the screen to a card first: Pens, true size'}
            onClick={() => trueScale && sheet.current?.zoomTo(trueScale)}
          >
            True size
          </button>
        )}
      </span>
      <span role="group" aria-label="turn the view" className="tabs">
        <button type="button" aria-label="turn left" title="[" onClick={() => sheet.current?.turnBy(-TURN)}>
          ↺
        </button>
        <button type="button" aria-label="turn right" title="]" onClick={() => sheet.current?.turnBy(TURN)}>
          ↻
        </button>
        <button type="button" aria-pressed={!!view?.mirror} onClick={() => sheet.current?.mirror()}>
          Mirror
        </button>
        {turned && <span className="soft">{view.mirror ? 'mirrored' : `${((view.turn * 180) / Math.PI).toFixed(0)}°`}</span>}
      </span>
      {penSeen() && (
        <label>
          pen’s button{' '}
          <select
            className="form-select form-select-sm tight d-inline-block w-auto"
            aria-label="what the pen’s button does"
            value={button}
            onChange={(e) => {
              setBarrel(e.target.value as Barrel);
              setButton(e.target.value as Barrel);
            }}
          >
            <option value="move">moves the view</option>
            <option value="erase">erases</option>
            <option value="nothing">does nothing</option>
          </select>
        </label>
      )}
    </span>
  );
}
