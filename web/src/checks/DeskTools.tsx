// Over the drawing: what is shown of it, and how near it is seen.
import type { PictureView } from './usePictureView';

type Behind = { previous: boolean; next: boolean };
type Props = {
  on: { asDrawn: boolean; behind: Behind; zoomed: boolean; loupe: boolean; inPrint: boolean; pinning: boolean; leaving: boolean; wiped: boolean };
  set: {
    setAsDrawn: (v: boolean) => void;
    setBehind: (v: Behind) => void;
    setZoomed: (v: boolean) => void;
    setLoupe: (v: boolean) => void;
    setInPrint: (v: boolean) => void;
    setPinning: (v: boolean) => void;
    setLeaving: (v: boolean) => void;
  };
  /** Where there is a previous take. */
  onWipe: (() => void) | undefined;
  /** What is lost in print, where the guide has a print. */
  print: number | undefined;
  lead: boolean;
  view: PictureView;
};

export function DeskTools({ on, set, onWipe, print, lead, view }: Props) {
  const tab = (pressed: boolean, says: string, flip: () => void, title?: string) => (
    <button type="button" aria-pressed={pressed} title={title} onClick={flip}>
      {says}
    </button>
  );
  const zoom = (says: string, label: string, act: () => void, title: string) => (
    <button type="button" aria-label={label} title={title} onClick={act}>
      {says}
    </button>
  );
  const { behind } = on;
  return (
    <div className="px-3 tabs" style={{ borderBottom: '1px solid var(--hairline)' }}>
      {tab(!on.asDrawn, 'weight', () => set.setAsDrawn(false))}
      {tab(on.asDrawn, 'as drawn', () => set.setAsDrawn(true))}
      {tab(behind.previous, 'previous', () => set.setBehind({ ...behind, previous: !behind.previous }), 'previous drawing shown through  ,')}
      {tab(behind.next, 'next', () => set.setBehind({ ...behind, next: !behind.next }), 'next drawing shown through  .')}
      {tab(on.zoomed, 'zoom to the finding', () => set.setZoomed(!on.zoomed), 'z')}
      {tab(on.loupe, 'loupe', () => set.setLoupe(!on.loupe), 'l')}
      {onWipe && tab(on.wiped, 'wipe with the previous take', onWipe)}
      {print !== undefined && tab(on.inPrint, `in print${print ? ` (${print} lost)` : ''}`, () => set.setInPrint(!on.inPrint))}
      {lead && tab(on.pinning, 'pin', () => set.setPinning(!on.pinning), 'm')}
      {lead && tab(on.leaving, 'leave out', () => set.setLeaving(!on.leaving), 'a region that is not measured: a slate, lettering, a logo')}
      {zoom('−', 'zoom out', () => view.zoomBy(1 / 1.4), '−  or the wheel')}
      {zoom('+', 'zoom in', () => view.zoomBy(1.4), '+  or the wheel')}
      {zoom('Show all', 'Show all', view.showAll, 'Home')}
    </div>
  );
}
