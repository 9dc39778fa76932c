// A brush's versions as a thread down the side of its lanes: restore one, start a copy from it, compare it in the lanes.
import { Link } from 'react-router';
import type { Schemas } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { day } from '../parts/states';

type Props = {
  view: Schemas['BrushView'];
  /** What was changed since the version that was saved last; none where nothing was. */
  changed: string | null;
  /** The version that is compared with the brush. */
  under: number | null;
  may: boolean;
  onUnder: (version: number | null) => void;
  onGoBack: (version: number) => void;
  onCopy: (version: number) => void;
};

export function VersionThread({ view, changed, under, may, onUnder, onGoBack, onCopy }: Props) {
  return (
    <div style={{ borderLeft: '1px solid var(--hairline)', maxHeight: 174, overflowY: 'auto' }}>
      <div className="tight soft px-3 pt-2 d-flex justify-content-between">
        Versions
        {view.versions.length > 1 && <Link to={`/brushes/${view.id}/compare`}>Compare two</Link>}
      </div>
      <ul className="thread">
        {changed && (
          <li className="unsaved">
            <b>unsaved</b>
            <div className="soft small">{changed}</div>
          </li>
        )}
        {view.versions.map((x) => (
          <li key={x.version} className={x.version === view.current_version ? 'current' : ''}>
            <b>{x.version}</b> <span className="soft small">{x.says}</span>
            <div className="soft small">
              {x.by}, {day(x.at)}
            </div>
            {may && (
              <div className="d-flex gap-3 small">
                {x.version !== view.current_version && (
                  <button type="button" className="btn-word" onClick={() => onGoBack(x.version)}>
                    Restore version
                  </button>
                )}
                <button type="button" className="btn-word" onClick={() => onCopy(x.version)}>
                  Start a copy
                </button>
              </div>
            )}
            <button type="button" className="btn-word small" aria-pressed={under === x.version} onClick={() => onUnder(under === x.version ? null : x.version)}>
              {under === x.version ? 'Shown in the lanes' : 'Compare in the lanes'}
            </button>
          </li>
        ))}
      </ul>
      <div className="px-3 py-1">
        <ArchiveIt kind="brushes" id={view.id} name={view.name} />
      </div>
    </div>
  );
}
