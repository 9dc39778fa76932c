// The line guide: roles as lines at their weight, the tolerance as a band, the swell as a shape.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { Figure } from '../lanes/CurveEditor';
import { day, Empty, Head, Loading, Problem } from '../lanes/states';
import { useOpen } from '../session';

type Guide = Schemas['LineGuide'];
type Role = Schemas['Role'];

export function useGuides() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  return useQuery({ queryKey: ['guides', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params })) });
}

const FIRST: Guide = {
  format: 'eddymist/line-guide',
  version: 1,
  name: 'Line guide',
  page: { width_px: 1920, height_px: 1080 },
  finish: 'smooth',
  roles: [{ name: 'contour', from: { colour: '#1b1e24', tolerance: 8 }, weight_px: { target: 6, tolerance: 0.1 }, ends: 'any' }],
  must_mend: ['heavy', 'thin'],
} as Guide;

function RoleLine({ role }: { role: Role }) {
  const w = role.weight_px;
  const colour = role.from.colour ?? 'var(--ink)';
  if (!w || role.judge === false)
    return (
      <svg viewBox="0 0 400 34" width="100%" height="34" preserveAspectRatio="none" aria-hidden>
        <line x1="8" x2="392" y1="17" y2="17" stroke={colour} strokeWidth="3" strokeDasharray="9 7" />
      </svg>
    );
  const hi = w.target * (1 + w.tolerance);
  const swell = w.swell;
  return (
    <svg viewBox="0 0 400 34" width="100%" height="34" preserveAspectRatio="none" aria-hidden>
      {swell && (
        <path
          d={`M8 ${17 - (swell[0] ?? 0) / 2}Q200 ${17 - (swell[1] ?? 0)} 392 ${17 - (swell[0] ?? 0) / 2}V${17 + (swell[0] ?? 0) / 2}Q200 ${17 + (swell[1] ?? 0)} 8 ${17 + (swell[0] ?? 0) / 2}Z`}
          fill="#e3e6e4"
        />
      )}
      <rect x="8" width="384" y={17 - hi / 2} height={hi} fill="var(--band-edge)" />
      <rect x="8" width="384" y={17 - w.target / 2} height={w.target} fill={colour} />
    </svg>
  );
}

export function Guides() {
  const { production } = useOpen();
  const lead = production.part === 'lead';
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const guides = useGuides();
  const kept = guides.data?.[0];
  const [guide, setGuide] = useState<Guide | null>(null);
  const [past, setPast] = useState<Guide[]>([]);
  const [error, setError] = useState<unknown>(null);
  const key = `guide-${production.id}`;
  useEffect(() => {
    if (guide || !guides.data) return;
    const left = localStorage.getItem(key);
    setGuide(left ? JSON.parse(left) : (kept?.guide ?? null));
  }, [guides.data, guide, kept, key]);
  const unsaved = !!guide && JSON.stringify(guide) !== JSON.stringify(kept?.guide ?? null);
  useEffect(() => {
    if (guide && unsaved) localStorage.setItem(key, JSON.stringify(guide));
    else if (guide) localStorage.removeItem(key);
  }, [guide, unsaved, key]);
  if (guides.isLoading) return <Loading what="the guides" />;
  const change = (g: Guide) => {
    if (guide) setPast([...past, guide]);
    setGuide(g);
  };
  const role = (i: number, r: Partial<Role>) => guide && change({ ...guide, roles: guide.roles.map((x, k) => (k === i ? { ...x, ...r } : x)) });
  const weight = (i: number, w: Partial<Schemas['Weight']>) => {
    const now = guide?.roles[i]?.weight_px ?? { target: 4, tolerance: 0.1 };
    role(i, { weight_px: { ...now, ...w } });
  };
  const save = async () => {
    if (!guide) return;
    setError(null);
    try {
      if (kept)
        await take(
          api.POST('/api/v1/productions/{production}/guides/{id}/versions', {
            params: { path: { production: production.id, id: kept.id } },
            body: { guide, from_version: kept.version },
          }),
        );
      else await take(api.POST('/api/v1/productions/{production}/guides', { params, body: guide }));
      localStorage.removeItem(key);
      await client.invalidateQueries({ queryKey: ['guides'] });
      setPast([]);
    } catch (e) {
      setError(e);
      await client.invalidateQueries({ queryKey: ['guides'] });
    }
  };
  if (!guide)
    return (
      <div className="page">
        <Head title="No line guide yet" />
        <Problem error={guides.error} />
        <Empty title="The guide says what lines must weigh">
          {lead ? <Button onClick={() => setGuide(FIRST)}>Start with one role</Button> : 'A lead of this production sets it.'}
        </Empty>
      </div>
    );
  return (
    <div className="page">
      <Head
        title={guide.name}
        says={
          <>
            page {guide.page.width_px}×{guide.page.height_px} px · {guide.finish} finish ·{' '}
            {kept ? `version ${kept.version} by ${kept.by}, ${day(kept.at)}` : 'not saved yet'}
            {unsaved && <b style={{ color: 'var(--warn)' }}> · changed, not saved</b>}
          </>
        }
      >
        <Button
          variant="paper"
          disabled={!past.length}
          onClick={() => {
            setGuide(past[past.length - 1] ?? guide);
            setPast(past.slice(0, -1));
          }}
        >
          Undo
        </Button>
        <Button disabled={!unsaved || !lead} onClick={save}>
          Save (adds version {(kept?.version ?? 0) + 1})
        </Button>
      </Head>
      <Problem error={error} />
      {!lead && <div className="notice">Only a lead of this production may change the guide.</div>}
      <table className="plain-table">
        <thead>
          <tr>
            <th>Role</th>
            <th>Colour</th>
            <th style={{ width: '24%' }}>Weight, tolerance, swell</th>
            <th>Target px</th>
            <th>Tolerance %</th>
            <th>Swell px</th>
            <th>Judged</th>
            <th aria-label="take out" />
          </tr>
        </thead>
        <tbody>
          {guide.roles.map((r, i) => {
            const w = r.weight_px;
            const judged = r.judge !== false;
            return (
              <tr key={i}>
                <td>
                  <input
                    className="figure"
                    style={{ width: 120, textAlign: 'left' }}
                    aria-label={`name of role ${i + 1}`}
                    disabled={!lead}
                    value={r.name}
                    onChange={(e) => role(i, { name: e.target.value })}
                  />
                </td>
                <td className="text-nowrap">
                  {r.from.colour != null ? (
                    <>
                      <input
                        type="color"
                        aria-label={`colour of ${r.name}`}
                        disabled={!lead}
                        value={r.from.colour}
                        onChange={(e) => role(i, { from: { ...r.from, colour: e.target.value } })}
                        style={{ width: 30, height: 26, border: 0, padding: 0, verticalAlign: 'middle' }}
                      />{' '}
                      {r.from.colour} <span className="soft">± ΔE {r.from.tolerance ?? 6}</span>
                    </>
                  ) : r.from.layer ? (
                    `layer ${r.from.layer}`
                  ) : r.from.outline ? (
                    'outline'
                  ) : (
                    'all other ink'
                  )}
                </td>
                <td>
                  <RoleLine role={r} />
                </td>
                <td>
                  {w && judged ? (
                    <Figure value={w.target} digits={1} label={`target of ${r.name} in px`} disabled={!lead} onValue={(v) => weight(i, { target: v })} />
                  ) : (
                    '–'
                  )}
                </td>
                <td>
                  {w && judged ? (
                    <Figure
                      value={w.tolerance * 100}
                      digits={0}
                      label={`tolerance of ${r.name} in per cent`}
                      disabled={!lead}
                      onValue={(v) => weight(i, { tolerance: v / 100 })}
                    />
                  ) : (
                    '–'
                  )}
                </td>
                <td className="text-nowrap">
                  {!w || !judged ? (
                    '–'
                  ) : w.swell ? (
                    <>
                      <Figure
                        value={w.swell[0] ?? 0}
                        digits={1}
                        width={48}
                        label={`least width of ${r.name} in px`}
                        disabled={!lead}
                        onValue={(v) => weight(i, { swell: [v, w.swell?.[1] ?? v + 1] })}
                      />{' '}
                      to{' '}
                      <Figure
                        value={w.swell[1] ?? 0}
                        digits={1}
                        width={48}
                        label={`greatest width of ${r.name} in px`}
                        disabled={!lead}
                        onValue={(v) => weight(i, { swell: [w.swell?.[0] ?? 0, v] })}
                      />{' '}
                      {lead && (
                        <button type="button" className="btn-word" onClick={() => weight(i, { swell: null })}>
                          none
                        </button>
                      )}
                    </>
                  ) : lead ? (
                    <button
                      type="button"
                      className="btn-word"
                      onClick={() => weight(i, { swell: [Number((w.target * 0.7).toFixed(1)), Number((w.target * 1.4).toFixed(1))] })}
                    >
                      may swell…
                    </button>
                  ) : (
                    'none'
                  )}
                </td>
                <td>
                  <input
                    type="checkbox"
                    className="form-check-input"
                    aria-label={`${r.name} is judged`}
                    disabled={!lead}
                    checked={judged}
                    onChange={(e) => role(i, { judge: e.target.checked, weight_px: w ?? (e.target.checked ? { target: 4, tolerance: 0.1 } : null) })}
                  />
                </td>
                <td>
                  {lead && guide.roles.length > 1 && (
                    <button type="button" className="btn-word" onClick={() => change({ ...guide, roles: guide.roles.filter((_, k) => k !== i) })}>
                      Take out
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {lead && (
        <Button
          variant="paper"
          size="sm"
          className="mt-2"
          onClick={() =>
            change({
              ...guide,
              roles: [
                ...guide.roles,
                {
                  name: `role ${guide.roles.length + 1}`,
                  from: { colour: '#336633', tolerance: 8 },
                  weight_px: { target: 4, tolerance: 0.1 },
                  ends: 'any',
                } as Role,
              ],
            })
          }
        >
          Add a role
        </Button>
      )}
      <p className="soft tight mt-3 mb-0">
        A drawing goes back when a stretch longer than three target widths is too{' '}
        {(guide.must_mend ?? []).filter((k) => k === 'heavy' || k === 'thin').join(' or too ') || 'anything that must be mended'}. Every px is the page’s;
        drawings of another size are scaled.
      </p>
    </div>
  );
}
