// A guide's versions as a thread; any one laid against what is on the page, or taken up again.
import { useState } from 'react';
import type { Schemas } from '../api/client';
import { useGuideVersions } from '../parts/lists';
import { day } from '../parts/states';
import { guideChanges } from './guideChanges';

type Props = { id: string; current: number; guide: Schemas['LineGuide']; onTake: ((g: Schemas['LineGuide']) => void) | undefined };

export function GuideVersions({ id, current, guide, onTake }: Props) {
  const [against, setAgainst] = useState<number | null>(null);
  const [from, setFrom] = useState<number | null>(null);
  const versions = useGuideVersions(id, current);
  const list = versions.data ?? [];
  const one = list.find((v) => v.version === against);
  const other = list.find((v) => v.version === from);
  const changes = one ? guideChanges(one.guide, other?.guide ?? guide) : [];
  return (
    <aside aria-label="versions">
      <h2>Versions</h2>
      <ol className="thread">
        {list.map((v) => (
          <li key={v.version} className={v.version === current ? 'current' : ''}>
            <button
              type="button"
              className="btn-word"
              aria-expanded={against === v.version}
              onClick={() => setAgainst(against === v.version ? null : v.version)}
            >
              {v.version}
            </button>{' '}
            <span className="soft tight">
              {v.by}, {day(v.at)}
              {v.note && <span className="d-block">“{v.note}”</span>}
            </span>
          </li>
        ))}
      </ol>
      {one && (
        <div className="tight">
          <label>
            version {one.version} against{' '}
            <select value={from ?? ''} onChange={(e) => setFrom(e.target.value ? Number(e.target.value) : null)}>
              <option value="">what is on the page</option>
              {list
                .filter((v) => v.version !== one.version)
                .map((v) => (
                  <option key={v.version} value={v.version}>
                    version {v.version}
                  </option>
                ))}
            </select>
          </label>
          {changes.length === 0 && <div className="soft">Nothing differs.</div>}
          {changes.slice(0, 40).map((c) => (
            <div key={c.field} className="py-1" style={{ borderTop: '1px solid var(--hairline)' }}>
              {c.field}
              <div>
                <span className="soft">{c.was} →</span> <b>{c.is}</b>
              </div>
            </div>
          ))}
          {onTake && changes.length > 0 && (
            <button type="button" className="btn-word" onClick={() => onTake(one.guide)}>
              Restore version {one.version} again
            </button>
          )}
        </div>
      )}
    </aside>
  );
}
