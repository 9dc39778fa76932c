// What a guide looks for and how far things may go: kinds of finding, limits, finish, page, shots, print.
import type { ReactNode } from 'react';
import type { Schemas } from '../api/client';
import { Figure } from '../parts/Figure';

type Guide = Schemas['LineGuide'];
type Kind = Schemas['FindingKind'];
type Limit = keyof NonNullable<Guide['limits']>;
type Print = NonNullable<Guide['print']>;

/** Each kind in a few words, and the limit that it has. */
const KINDS: { kind: Kind; says: string; limit?: Limit; unit?: string; least?: Limit; region?: Limit }[] = [
  { kind: 'heavy', says: 'wider than the role allows, for over three widths' },
  { kind: 'thin', says: 'narrower than the role allows, for over three widths' },
  { kind: 'uneven', says: 'right on average, its widths spread over', limit: 'uneven', unit: 'of the mean' },
  { kind: 'gap', says: 'paint would leak through an opening under', limit: 'gap_px', unit: 'px', region: 'gap_region_px2' },
  { kind: 'hook', says: 'turns by over 60° at an end; the turn begins within ten widths of it, or', limit: 'hook_px', unit: 'px' },
  { kind: 'speck', says: 'ink alone, of', limit: 'speck_px2', unit: 'px²', least: 'speck_least_px2' },
  { kind: 'pinhole', says: 'paper inside ink, of', limit: 'pinhole_px2', unit: 'px²', least: 'pinhole_least_px2' },
  { kind: 'off-palette', says: 'ink in no role’s colour' },
  { kind: 'soft-edge', says: 'from paper to ink over more than', limit: 'soft_px', unit: 'px' },
  { kind: 'hard-edge', says: 'stepped where the finish is smooth' },
  { kind: 'double', says: 'two lines nearly on one another' },
  { kind: 'blunt-end', says: 'full to its end where the role tapers' },
  { kind: 'tapered-end', says: 'runs out where the role ends blunt' },
  { kind: 'drift', says: 'an artist’s weight moves over the drawings' },
  { kind: 'boil', says: 'jumps from drawing to drawing by over', limit: 'boil', unit: 'of the target' },
];
/** Openings under this are gaps, where neither guide nor role says otherwise, px. */
export const GAP_PX = 6;
const LIMITS: Record<Limit, number> = {
  gap_px: GAP_PX,
  gap_region_px2: 16,
  speck_px2: 12,
  speck_least_px2: 1,
  pinhole_px2: 8,
  pinhole_least_px2: 1,
  hook_px: 10,
  uneven: 0.2,
  boil: 0.08,
  soft_px: 1.5,
  least_measured: 0.6,
};

function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="d-flex justify-content-between align-items-center tight py-1" style={{ borderTop: '1px solid var(--hairline)' }}>
      <span>{label}</span>
      <span className="text-nowrap">{children}</span>
    </div>
  );
}

export function GuideRules({ guide, lead, onChange }: { guide: Guide; lead: boolean; onChange: (g: Guide) => void }) {
  const limits = { ...LIMITS, ...guide.limits };
  const off = guide.off ?? [];
  const must = guide.must_mend ?? [];
  const shots = Object.entries(guide.scale_by_shot ?? {});
  const flip = (list: Kind[], kind: Kind, on: boolean) => (on ? [...list.filter((k) => k !== kind), kind] : list.filter((k) => k !== kind));
  const print = guide.print;
  const setPrint = (p: Partial<Print>) => print && onChange({ ...guide, print: { ...print, ...p } });
  const page = (p: Partial<Guide['page']>) => onChange({ ...guide, page: { ...guide.page, ...p } });
  const figure = (label: string, value: number, digits: number, onValue: (v: number) => void) => (
    <Figure value={value} digits={digits} width={58} label={label} disabled={!lead} onValue={onValue} />
  );
  return (
    <div style={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1.5fr) minmax(0, 1fr)', gap: 20, marginTop: 18, alignItems: 'start' }}>
      <section aria-label="what is checked">
        <h2>What is checked</h2>
        <table className="plain-table">
          <thead>
            <tr>
              <th>Finding</th>
              <th>Checked</th>
              <th>Must fix</th>
              <th>Limit</th>
            </tr>
          </thead>
          <tbody>
            {KINDS.map(({ kind, says, limit, unit, least, region }) => {
              const on = !off.includes(kind);
              return (
                <tr key={kind} className={on ? '' : 'soft'}>
                  <td>
                    <b>{kind.replace('-', ' ')}</b> <span className="soft">{says}</span>
                  </td>
                  <td>
                    <input
                      type="checkbox"
                      className="form-check-input"
                      aria-label={`${kind} is checked`}
                      disabled={!lead}
                      checked={on}
                      onChange={(e) => onChange({ ...guide, off: flip(off, kind, !e.target.checked) })}
                    />
                  </td>
                  <td>
                    {kind !== 'drift' && kind !== 'boil' && (
                      <input
                        type="checkbox"
                        className="form-check-input"
                        aria-label={`${kind} must fix`}
                        disabled={!lead}
                        checked={must.includes(kind)}
                        onChange={(e) => onChange({ ...guide, must_mend: flip(must, kind, e.target.checked) })}
                      />
                    )}
                  </td>
                  <td className="text-nowrap">
                    {least && (
                      <>
                        {figure(`least of ${kind}`, limits[least], 1, (v) => onChange({ ...guide, limits: { ...limits, [least]: v } }))}{' '}
                        <span className="soft">to</span>{' '}
                      </>
                    )}
                    {limit &&
                      figure(`limit of ${kind}`, limits[limit], limit === 'uneven' || limit === 'boil' ? 2 : 1, (v) =>
                        onChange({ ...guide, limits: { ...limits, [limit]: v } }),
                      )}{' '}
                    <span className="soft">{unit}</span>
                    {region && (
                      <div className="soft">
                        out of over {figure(`region of ${kind}`, limits[region], 0, (v) => onChange({ ...guide, limits: { ...limits, [region]: v } }))} px²
                      </div>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        <p className="soft tight mt-2 mb-0">
          A drawing needs fixes when a finding stands that must fix. Every px is the page’s, and drawings of another size are scaled, but a soft edge’s, which
          is the drawing’s own.
        </p>
      </section>
      <section aria-label="page, shots and print">
        <h2>Page</h2>
        <Line label="Sides, px">
          {figure('page width in px', guide.page.width_px, 0, (v) => page({ width_px: v }))} ×{' '}
          {figure('page height in px', guide.page.height_px, 0, (v) => page({ height_px: v }))}
        </Line>
        <Line label="px to the mm, where it is known">
          {figure('px to the mm', guide.page.px_per_mm ?? 0, 2, (v) => page({ px_per_mm: v > 0 ? v : null }))}
        </Line>
        <Line label="Frame rate, fps">{figure('frame rate, fps', guide.page.rate_fps ?? 24, 0, (v) => page({ rate_fps: v }))}</Line>
        <Line label="Finish">
          <select
            className="figure"
            style={{ width: 160, textAlign: 'left' }}
            aria-label="finish"
            disabled={!lead}
            value={guide.finish ?? 'smooth'}
            onChange={(e) => onChange({ ...guide, finish: e.target.value as Guide['finish'] })}
          >
            <option value="smooth">smooth (anti-aliased)</option>
            <option value="hard">hard (aliased)</option>
          </select>
        </Line>
        <Line label="A role is checked where this much of it could be measured, %">
          {figure('least measured share in per cent', limits.least_measured * 100, 0, (v) =>
            onChange({ ...guide, limits: { ...limits, least_measured: Math.min(100, v) / 100 } }),
          )}
        </Line>
        <Line label="The drawings are">
          <select
            className="figure"
            style={{ width: 160, textAlign: 'left' }}
            aria-label="what the drawings are"
            disabled={!lead}
            value={guide.picture_kind ?? ''}
            onChange={(e) => onChange({ ...guide, picture_kind: (e.target.value || null) as Guide['picture_kind'] })}
          >
            <option value="">told from each picture</option>
            <option value="drawing">drawn in a program</option>
            <option value="scan">scanned</option>
            <option value="photo">photographed</option>
          </select>
        </Line>
        <h2 className="mt-3">Shots</h2>
        {shots.map(([size, factor]) => (
          <Line key={size} label={`${size}: weight factor`}>
            {figure(`factor of ${size} shots`, factor, 2, (v) => onChange({ ...guide, scale_by_shot: { ...guide.scale_by_shot, [size]: v } }))}{' '}
            {lead && (
              <button
                type="button"
                className="btn-word"
                onClick={() => onChange({ ...guide, scale_by_shot: Object.fromEntries(shots.filter((s) => s[0] !== size)) })}
              >
                Remove
              </button>
            )}
          </Line>
        ))}
        {lead && (
          <form
            className="d-flex gap-2 py-1"
            onSubmit={(e) => {
              e.preventDefault();
              const size = String(new FormData(e.currentTarget).get('size') ?? '').trim();
              if (size) onChange({ ...guide, scale_by_shot: { ...guide.scale_by_shot, [size]: 1 } });
              e.currentTarget.reset();
            }}
          >
            <input className="figure" style={{ width: 140, textAlign: 'left' }} name="size" placeholder="shot size" aria-label="shot size" />
            <button type="submit" className="btn-word">
              Add shot size
            </button>
          </form>
        )}
        <h2 className="mt-3">Print</h2>
        {print ? (
          <>
            <Line label="Printed over drawn size, %">{figure('reduction in per cent', print.reduction * 100, 0, (v) => setPrint({ reduction: v / 100 }))}</Line>
            <Line label="A line gains, mm">{figure('ink gain in mm', print.ink_gain_mm ?? 0, 3, (v) => setPrint({ ink_gain_mm: v }))}</Line>
            <Line label="Thinnest printable line, mm">{figure('thinnest line in mm', print.thinnest_mm, 2, (v) => setPrint({ thinnest_mm: v }))}</Line>
            <Line label="White closes under, mm">{figure('closing white in mm', print.closes_mm ?? 0, 2, (v) => setPrint({ closes_mm: v }))}</Line>
            {lead && (
              <button type="button" className="btn-word" onClick={() => onChange({ ...guide, print: null })}>
                Not printed
              </button>
            )}
          </>
        ) : (
          <div className="tight soft">
            Not checked.{' '}
            {lead &&
              (guide.page.px_per_mm ? (
                <button
                  type="button"
                  className="btn-word"
                  onClick={() => onChange({ ...guide, print: { reduction: 0.67, ink_gain_mm: 0.02, thinnest_mm: 0.1, closes_mm: 0.1 } })}
                >
                  Add print…
                </button>
              ) : (
                'Say how many px of the page are a mm first.'
              ))}
          </div>
        )}
      </section>
    </div>
  );
}
