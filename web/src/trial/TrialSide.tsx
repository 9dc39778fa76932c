// Beside a trial page: what lies beneath, the strokes that are chosen, the passes, and the page as files.
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { put_right } from '../../engine/prebuilt/eddymist_wasm';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { COURSES } from '../parts/courses';
import { Figure } from '../parts/Figure';
import { OwnTapers } from '../parts/OwnTapers';
import { useMayChange, useOpen } from '../session';
import { REACH_MM, type Stroke } from './steps';
import { samplesOf, type useInk } from './useInk';

type Shows = { previous: boolean; next: boolean };
type Props = {
  id: string;
  page: Schemas['TrialPage'];
  ink: ReturnType<typeof useInk>;
  /** The chosen strokes, while strokes are chosen. */
  chosen: Set<number> | null;
  rough: number;
  setRough: (v: number) => void;
  shows: Shows;
  setShows: (v: Shows) => void;
  hidden: Set<string>;
  setHidden: (v: Set<string>) => void;
  grid: boolean;
  setGrid: (v: boolean) => void;
  delivered: boolean;
  setDelivered: (v: boolean) => void;
  onNeighbours: (shas: string[]) => void;
  onError: (e: unknown) => void;
  onStrokes: (to: Stroke[]) => void;
  onEdit: (how: (s: Stroke) => Partial<Stroke>) => void;
  onRemove: () => void;
};

const nulls = (s: ArrayLike<number>) => Array.from(s, (v) => (Number.isFinite(v) ? v : null));

export function TrialSide(p: Props) {
  const may = useMayChange();
  const { strokes } = p.page;
  const newer = strokes.filter((s) => {
    const v = p.ink.brushes[s.brush_id];
    return v && v.current_version !== s.version;
  });
  const reInk = (which: (i: number) => boolean) =>
    p.onStrokes(strokes.map((s, i) => (which(i) ? { ...s, version: p.ink.brushes[s.brush_id]?.current_version ?? s.version } : s)));
  const roles = [...new Set([...p.ink.passes.map((x) => x.role), ...strokes.map((s) => s.role)])];
  return (
    <>
      <Beneath {...p} />
      {p.chosen && <Chosen {...p} chosen={p.chosen} />}
      {newer.length > 0 && may && (
        <div className="card-plain mb-2">
          <p className="mb-1">
            {newer.length === 1 ? '1 stroke was' : `${newer.length} strokes were`} inked with another version than the current one, and{' '}
            {newer.length === 1 ? 'stays' : 'stay'} so.
          </p>
          <button type="button" className="btn-word" onClick={() => reInk(() => true)}>
            Ink all strokes with the current version
          </button>
          {p.chosen && p.chosen.size > 0 && (
            <button type="button" className="btn-word d-block" onClick={() => reInk((i) => !!p.chosen?.has(i))}>
              Ink the chosen strokes with it
            </button>
          )}
        </div>
      )}
      <div className="card-plain mb-2">
        <h2>Passes</h2>
        {roles.map((r) => (
          <label key={r} className="d-block">
            <input
              type="checkbox"
              checked={!p.hidden.has(r)}
              onChange={(e) => {
                const to = new Set(p.hidden);
                if (e.target.checked) to.delete(r);
                else to.add(r);
                p.setHidden(to);
              }}
            />{' '}
            {r} <span className="soft">{strokes.filter((s) => s.role === r).length}</span>
          </label>
        ))}
        <label className="d-block">
          <input type="checkbox" checked={p.delivered} onChange={(e) => p.setDelivered(e.target.checked)} /> as delivered, at the page’s pixels
        </label>
        <label className="d-block">
          <input type="checkbox" checked={p.grid} onChange={(e) => p.setGrid(e.target.checked)} /> pixel grid <span className="soft">(from 400 %)</span>
        </label>
      </div>
      {strokes.length > 0 && <TakeOut id={p.id} />}
      {strokes.length > 0 && (
        <Link to={`/brushes/trials/${p.id}/my-page`} className="d-block">
          Compare with my page
        </Link>
      )}
      <Link to="/brushes/trials">All trial pages</Link>
    </>
  );
}

function Beneath({ page, rough, setRough, shows, setShows, onNeighbours, onError }: Props) {
  const { production } = useOpen();
  const may = useMayChange();
  const neighbours = page.neighbours ?? [];
  const sides = [
    ['previous', 0],
    ['next', 1],
  ] as const;
  return (
    <div className="card-plain mb-2">
      <h2>Under the ink</h2>
      <label className="d-block">
        rough {!page.rough ? 'none' : rough ? `${(100 * rough).toFixed(0)} %` : 'hidden'}
        <input
          type="range"
          className="w-100"
          aria-label="strength of the rough"
          min="0"
          max="1"
          step="0.05"
          value={rough}
          disabled={!page.rough}
          onChange={(e) => setRough(Number(e.target.value))}
        />
      </label>
      {sides.map(([side, at]) =>
        neighbours[at] ? (
          <label key={side} className="d-block">
            <input type="checkbox" checked={shows[side]} onChange={(e) => setShows({ ...shows, [side]: e.target.checked })} /> {side} drawing
          </label>
        ) : (
          may &&
          at <= neighbours.length && (
            <label key={side} className="btn-word d-block" style={{ cursor: 'pointer' }}>
              Add {side} drawing…
              <input
                type="file"
                accept="image/png,image/jpeg"
                className="visually-hidden"
                aria-label={`add ${side} drawing`}
                onChange={async (e) => {
                  const file = e.target.files?.[0];
                  e.target.value = '';
                  if (!file) return;
                  try {
                    const got = await sendFiles<Schemas['RoughView']>(`/api/v1/productions/${production.id}/roughs`, [file]);
                    onNeighbours([...neighbours, got.sha256].slice(0, 2));
                  } catch (x) {
                    onError(x);
                  }
                }}
              />
            </label>
          )
        ),
      )}
      <div className="soft">Nothing here can be drawn on: ink goes on passes of its own.</div>
    </div>
  );
}

function Chosen({ page, ink, chosen, onEdit, onRemove }: Props & { chosen: Set<number> }) {
  const one = [...chosen].map((i) => page.strokes[i]).find(Boolean);
  return (
    <div className="card-plain mb-2">
      <h2>{chosen.size === 1 ? '1 stroke chosen' : `${chosen.size} strokes chosen`}</h2>
      {one ? (
        <>
          <div className="d-flex flex-wrap gap-3">
            <button type="button" className="btn-word" onClick={onRemove}>
              Remove strokes
            </button>
            <button
              type="button"
              className="btn-word"
              onClick={() => onEdit((s) => ({ samples: nulls(put_right(new Float64Array(samplesOf(s)), 'reversed')) }))}
            >
              Reverse strokes
            </button>
          </div>
          <div className="figure-row">
            <span>weight factor</span>
            <b>
              <Figure
                value={one.weight_factor ?? 1}
                digits={2}
                label="weight factor of the strokes"
                range={[0.05, 20]}
                onValue={(v) => onEdit(() => ({ weight_factor: v }))}
              />{' '}
              ×
            </b>
          </div>
          <label className="d-block">
            pressure along the line
            <select className="form-select form-select-sm tight" value={one.course ?? ''} onChange={(e) => onEdit(() => ({ course: e.target.value || null }))}>
              <option value="">as it was drawn</option>
              {COURSES.map(([v, word]) => (
                <option key={v} value={v}>
                  {word}
                </option>
              ))}
            </select>
          </label>
          <OwnTapers
            own={one.tapers}
            brush={ink.brushes[one.brush_id]?.versions.find((v) => v.version === one.version)?.brush}
            onChange={(v) => onEdit((s) => ({ tapers: { ...s.tapers, ...v } }))}
          />
          <select
            className="form-select form-select-sm tight"
            aria-label="brush of the strokes"
            value={one.brush_id}
            onChange={(e) => onEdit(() => ({ brush_id: e.target.value, version: ink.rack.data?.find((b) => b.id === e.target.value)?.current_version ?? 1 }))}
          >
            {ink.rack.data?.map((b) => (
              <option key={b.id} value={b.id}>
                {b.name}
              </option>
            ))}
          </select>
          <select
            className="form-select form-select-sm tight mt-1"
            aria-label="version of the strokes"
            value={one.version}
            onChange={(e) => onEdit((s) => (s.brush_id === one.brush_id ? { version: Number(e.target.value) } : {}))}
          >
            {ink.brushes[one.brush_id]?.versions.map((v) => (
              <option key={v.version} value={v.version}>
                version {v.version}
              </option>
            ))}
          </select>
          <div className="soft">
            {chosen.size === 1
              ? `Drag a point to nudge it, a dashed one to add it${one.course ? '' : ', a square to pull the width'}. By keys: arrows, ${one.course ? '' : '+ and −, '}Delete.`
              : `Drag to pull a line: the pull falls off over ${REACH_MM} mm.`}
          </div>
        </>
      ) : (
        <p className="soft mb-0">Point at a stroke; with shift, at several.</p>
      )}
    </div>
  );
}

/** The page as files; what merging costs or saves is said where it is asked for. */
function TakeOut({ id }: { id: string }) {
  const { production } = useOpen();
  const [asked, setAsked] = useState(false);
  const out = (kind: string) => `/api/v1/productions/${production.id}/trials/${id}/out/${kind}`;
  const sizes = useQuery({
    queryKey: ['trial-sizes', id, asked],
    enabled: asked,
    staleTime: 0,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/trials/{id}/sizes', { params: { path: { production: production.id, id } } })),
  });
  const kib = (b: number) => `${(b / 1024).toFixed(0)} KiB`;
  return (
    <div className="card-plain mb-2">
      <h2>Download</h2>
      <div className="d-flex flex-wrap gap-2">
        <a href={out('svg')}>SVG</a>
        <a href={out('merged.svg')}>SVG, merged</a>
        <a href={out('png')}>PNG</a>
        <a href={out('hard.png')}>PNG, hard</a>
        <a href={out('ora')}>OpenRaster</a>
        <a href={out('inkml')}>InkML</a>
      </div>
      {sizes.data ? (
        <div className="soft">
          each stroke for itself {kib(sizes.data.strokes_bytes)}; merged into one outline a pass {kib(sizes.data.merged_bytes)}
        </div>
      ) : (
        <button type="button" className="btn-word" onClick={() => setAsked(true)}>
          Show file sizes
        </button>
      )}
    </div>
  );
}
