// Two people changed one thing: what each of them has, and the two ways on.
import type { ReactNode } from 'react';
import { Button } from 'react-bootstrap';

type Props = {
  /** What was changed: “this brush”. */
  what: string;
  /** Who saved meanwhile, and when, where that is known. */
  by?: string;
  mine: ReactNode;
  theirs: ReactNode;
  busy?: boolean;
  /** Word of the first button, where there are no versions to add to. */
  keep?: string;
  onMine: () => void;
  onTheirs: () => void;
};

/** What is on both sides, and: save mine as a new version, or use theirs. Neither is lost before one is chosen. */
export function Conflict({ what, by, mine, theirs, busy, keep, onMine, onTheirs }: Props) {
  return (
    <section className="notice" role="alert" aria-label="two changes" style={{ display: 'block' }}>
      <b>
        {by
          ? `${by} saved ${what} while you were at it.`
          : `${what.charAt(0).toUpperCase()}${what.slice(1)} was changed by somebody else while you were at it.`}
      </b>{' '}
      Nothing of yours is lost; choose which goes on.
      <div className="d-flex flex-wrap gap-4 mt-2">
        <div style={{ flex: '1 1 260px' }}>
          <div className="soft tight">Yours</div>
          {mine}
          <Button size="sm" className="mt-2" disabled={busy} onClick={onMine}>
            {keep ?? 'Save mine as a new version'}
          </Button>
        </div>
        <div style={{ flex: '1 1 260px' }}>
          <div className="soft tight">Theirs</div>
          {theirs}
          <Button size="sm" variant="paper" className="mt-2" disabled={busy} onClick={onTheirs}>
            Use theirs
          </Button>
        </div>
      </div>
    </section>
  );
}

/** Fields that differ, in words; the first of many. */
export function Differences({ all }: { all: { field: string; was: string; is: string }[] }) {
  if (!all.length) return <div className="tight">nothing differs</div>;
  return (
    <ul className="tight mb-0 ps-3">
      {all.slice(0, 8).map((c) => (
        <li key={c.field}>
          {c.field}: {c.was} → {c.is}
        </li>
      ))}
      {all.length > 8 && <li>and {all.length - 8} more</li>}
    </ul>
  );
}
