// Under a delivery's name: how many drawings, by whom, against which guide; and how to add to it or check it again.
import type { Schemas } from '../api/client';

type Props = {
  delivery: Schemas['DeliveryView'];
  /** The guide has a newer version. */
  newer: boolean;
  artists: string[];
  onAdd: (() => void) | undefined;
  onCheckAgain: () => void;
};

export function DeliverySays({ delivery: d, newer, artists, onAdd, onCheckAgain }: Props) {
  const by = newer ? '' : artists.length ? ` by ${artists.slice(0, 6).join(', ')}` : ', artists not known';
  return (
    <>
      {d.drawings.length === 1 ? '1 drawing' : `${d.drawings.length} drawings`}
      {by} · {newer ? 'guide ' : `${d.guide.name}, `}version {d.guide_version}
      {onAdd && (
        <>
          {' '}
          ·{' '}
          <button type="button" className="btn-word" title="or drop them anywhere on this page: a next take goes to its drawing, by its number" onClick={onAdd}>
            Add drawings
          </button>
        </>
      )}
      {newer && (
        <>
          {' '}
          ·{' '}
          <button type="button" className="btn-word" onClick={onCheckAgain}>
            Check again with version {d.current_guide_version}
          </button>
        </>
      )}
    </>
  );
}
