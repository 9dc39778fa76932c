// A guide's roles: what tells their ink, what they weigh, how they may swell and end, in the order in which ink is given to them.
import { Button } from 'react-bootstrap';
import type { Schemas } from '../api/client';
import { Figure } from '../parts/Figure';
import { FOUND, FoundBy } from './FoundBy';
import { GAP_PX } from './GuideRules';

type Guide = Schemas['LineGuide'];
type Role = Schemas['Role'];

function RoleLine({ role }: { role: Role }) {
  const w = role.weight_px;
  const colour = role.from.colour ?? 'var(--ink)';
  if (!w || role.judge === false)
    return (
      <svg viewBox="0 0 400 34" width="100%" height="34" preserveAspectRatio="none" aria-hidden>
        <line x1="8" x2="392" y1="17" y2="17" stroke={colour} strokeWidth="3" strokeDasharray="9 7" />
      </svg>
    );
  // Three times its size, so that a tolerance of half a px is seen.
  const [lo, hi, target] = [w.target * (1 - w.tolerance), w.target * (1 + w.tolerance), w.target].map((v) => Math.min(36, 3 * v)) as [number, number, number];
  const [least, most] = (w.swell ?? [0, 0]).map((v) => Math.min(36, 3 * v)) as [number, number];
  return (
    <svg viewBox="0 0 400 36" width="100%" height="36" preserveAspectRatio="none" aria-hidden>
      {w.swell && (
        <path
          d={`M8 ${18 - least / 2}Q200 ${18 - most + least / 2} 392 ${18 - least / 2}V${18 + least / 2}Q200 ${18 + most - least / 2} 8 ${18 + least / 2}Z`}
          fill="#aeb6b3"
        />
      )}
      <rect x="8" width="384" y={18 - hi / 2} height={hi} fill="var(--band-edge)" />
      <rect x="8" width="384" y={18 - lo / 2} height={lo} fill={colour} />
      <path d={`M8 ${18 - target / 2}H392M8 ${18 + target / 2}H392`} stroke={colour} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

export function RoleTable({ guide, lead, onChange }: { guide: Guide; lead: boolean; onChange: (g: Guide) => void }) {
  const role = (i: number, r: Partial<Role>) => onChange({ ...guide, roles: guide.roles.map((x, k) => (k === i ? { ...x, ...r } : x)) });
  const weight = (i: number, w: Partial<Schemas['Weight']>) => {
    const now = guide.roles[i]?.weight_px ?? { target: 4, tolerance: 0.1 };
    role(i, { weight_px: { ...now, ...w } });
  };
  const earlier = (i: number) => {
    const roles = [...guide.roles];
    const [r] = roles.splice(i, 1);
    if (r) roles.splice(i - 1, 0, r);
    onChange({ ...guide, roles });
  };
  const ppm = guide.page.px_per_mm;
  const gap = guide.limits?.gap_px ?? GAP_PX;
  return (
    <>
      <div style={{ overflowX: 'auto' }}>
        <table className="plain-table">
          <thead>
            <tr>
              <th>Role</th>
              <th>Found by</th>
              <th style={{ minWidth: 76 }}>Weight, three times its size</th>
              <th>Target px</th>
              <th>Tolerance %</th>
              <th>Swell px</th>
              <th>Ends</th>
              <th title="openings in this role's lines that count as gaps, where they are not the guide's">Gaps under px</th>
              <th>Checked</th>
              <th aria-label="order, remove" />
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
                      style={{ width: 86, textAlign: 'left' }}
                      aria-label={`name of role ${i + 1}`}
                      disabled={!lead}
                      value={r.name}
                      onChange={(e) => role(i, { name: e.target.value })}
                    />
                  </td>
                  <td className="text-nowrap">
                    <FoundBy role={r} lead={lead} onChange={(from) => role(i, { from })} />
                  </td>
                  <td>
                    <RoleLine role={r} />
                  </td>
                  <td className="text-nowrap">
                    {w && judged ? (
                      <>
                        <Figure
                          value={w.target}
                          digits={1}
                          width={52}
                          label={`target of ${r.name} in px`}
                          disabled={!lead}
                          onValue={(v) => weight(i, { target: v })}
                        />
                        {ppm ? (
                          <div className="soft" style={{ fontSize: '0.78rem', lineHeight: 1.1 }}>
                            {(w.target / ppm).toFixed(2)} mm
                          </div>
                        ) : null}
                      </>
                    ) : (
                      '–'
                    )}
                  </td>
                  <td>
                    {w && judged ? (
                      <Figure
                        value={w.tolerance * 100}
                        digits={0}
                        width={44}
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
                          width={44}
                          label={`least width of ${r.name} in px`}
                          disabled={!lead}
                          onValue={(v) => weight(i, { swell: [v, w.swell?.[1] ?? v + 1] })}
                        />{' '}
                        to{' '}
                        <Figure
                          value={w.swell[1] ?? 0}
                          digits={1}
                          width={44}
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
                    <select
                      className="figure"
                      style={{ width: 72, textAlign: 'left' }}
                      aria-label={`ends of ${r.name}`}
                      disabled={!lead || !judged}
                      value={r.ends ?? 'any'}
                      onChange={(e) => role(i, { ends: e.target.value as Role['ends'] })}
                    >
                      <option value="any">any</option>
                      <option value="tapered">tapered</option>
                      <option value="blunt">blunt</option>
                    </select>
                  </td>
                  <td>
                    {judged ? (
                      <Figure
                        value={r.gap_px ?? gap}
                        digits={1}
                        width={44}
                        label={`gaps of ${r.name} under so many px`}
                        range={[0, Math.max(guide.page.width_px, guide.page.height_px)]}
                        disabled={!lead}
                        onValue={(v) => role(i, { gap_px: v === gap ? null : v })}
                      />
                    ) : (
                      '–'
                    )}
                  </td>
                  <td>
                    <input
                      type="checkbox"
                      className="form-check-input"
                      aria-label={`${r.name} is checked`}
                      disabled={!lead}
                      checked={judged}
                      onChange={(e) => role(i, { judge: e.target.checked, weight_px: w ?? (e.target.checked ? { target: 4, tolerance: 0.1 } : null) })}
                    />
                  </td>
                  <td className="text-nowrap">
                    {lead && i > 0 && (
                      <button type="button" className="btn-word" aria-label={`${r.name} before ${guide.roles[i - 1]?.name}`} onClick={() => earlier(i)}>
                        ↑
                      </button>
                    )}{' '}
                    {lead && guide.roles.length > 1 && (
                      <button type="button" className="btn-word" onClick={() => onChange({ ...guide, roles: guide.roles.filter((_, k) => k !== i) })}>
                        Remove
                      </button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {lead && (
        <Button
          variant="paper"
          size="sm"
          className="mt-2"
          onClick={() =>
            onChange({
              ...guide,
              roles: [
                ...guide.roles,
                { name: `role ${guide.roles.length + 1}`, from: FOUND.colour, weight_px: { target: 4, tolerance: 0.1 }, ends: 'any' } as Role,
              ],
            })
          }
        >
          Add a role
        </Button>
      )}
    </>
  );
}
