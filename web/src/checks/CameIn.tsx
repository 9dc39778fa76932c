// What became of the files that were dropped on a delivery: new, a next take, the same as before, or asked about; with undo.
import type { Schemas } from '../api/client';

type Taken = Schemas['FileTaken'];
type Props = {
  came: Taken[];
  /** A manifest that was among them. */
  table: string | null;
  onUndo: (ids: string[]) => void;
  onSelect: (id: string) => void;
  onDismiss: () => void;
};

const base = (file: string) => file.replace(/^.*[/\\]/, '');
const counted = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`);
/** So many are named. */
const NAMED = 4;

/** What each became, in words: "2 new · next take: a4.png of 0004.png". */
export function saysCame(came: Taken[]) {
  const takes = came.filter((f) => f.take);
  const fresh = came.filter((f) => f.id && !f.take && !f.asked);
  const there = came.filter((f) => f.there);
  const named = takes.slice(0, NAMED).map((f) => (f.of && base(f.of) !== base(f.file) ? `${base(f.file)} of ${base(f.of)}` : base(f.file)));
  const more = takes.length > NAMED ? ` and ${takes.length - NAMED} more` : '';
  return [
    fresh.length && counted(fresh.length, 'new drawing', 'new drawings'),
    takes.length && `${counted(takes.length, 'next take', 'next takes')}: ${named.join(', ')}${more}`,
    there.length && `${counted(there.length, 'file is', 'files are')} the same as before`,
  ]
    .filter(Boolean)
    .join(' · ');
}

export function CameIn({ came, table, onUndo, onSelect, onDismiss }: Props) {
  const asked = came.filter((f) => f.asked);
  const ids = came.flatMap((f) => f.id ?? []);
  return (
    <div className="notice d-flex gap-3 flex-wrap" role="status" aria-label="what came in">
      <span>
        {[saysCame(came), table && `${base(table)} was added to the manifest`].filter(Boolean).join(' · ')}
        {asked.map((f) => (
          <span key={f.file}>
            {' '}
            · {base(f.file)} may be the next take of several:{' '}
            <button type="button" className="btn-word" onClick={() => f.id && onSelect(f.id)}>
              Say of which
            </button>
          </span>
        ))}
      </span>
      {ids.length > 0 && (
        <button type="button" className="btn-word" onClick={() => onUndo(ids)}>
          Remove what came in
        </button>
      )}
      <button type="button" className="btn-word" onClick={onDismiss}>
        Dismiss message
      </button>
    </div>
  );
}
