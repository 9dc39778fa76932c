// Regions that the guide leaves out: what lies there, on which shot, where; renamed, moved to another shot, taken out.
import type { Schemas } from '../api/client';
import { regionPlace } from './regionPlace';

type Guide = Schemas['LineGuide'];
type Region = Schemas['LeftOut'];

export function RegionsLeftOut({ guide, lead, onChange }: { guide: Guide; lead: boolean; onChange: (g: Guide) => void }) {
  const regions = guide.left_out ?? [];
  const set = (i: number, to: Partial<Region> | null) =>
    onChange({ ...guide, left_out: regions.flatMap((r, k) => (k !== i ? [r] : to ? [{ ...r, ...to }] : [])) });
  return (
    <section aria-label="regions left out" className="mt-3">
      <h2>Regions left out</h2>
      {regions.length === 0 ? (
        <p className="soft tight mb-0">
          A slate, lettering or a logo is neither measured nor found fault with where it is left out: choose <i>leave out</i> over a drawing of a delivery, and
          drag a rectangle or draw round it.
        </p>
      ) : (
        <table className="plain-table">
          <thead>
            <tr>
              <th>What lies there</th>
              <th>Shot</th>
              <th>Where</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {regions.map((r, i) => (
              <tr key={i}>
                <td>
                  <input
                    className="form-control form-control-sm"
                    aria-label={`what lies in region ${i + 1}`}
                    defaultValue={r.name}
                    disabled={!lead}
                    onBlur={(e) => {
                      const name = e.target.value.trim();
                      if (!name) e.target.value = r.name;
                      else if (name !== r.name) set(i, { name });
                    }}
                  />
                </td>
                <td>
                  <input
                    className="form-control form-control-sm"
                    aria-label={`shot of region ${i + 1}`}
                    style={{ width: 90 }}
                    placeholder="every"
                    defaultValue={r.shot ?? ''}
                    disabled={!lead}
                    onBlur={(e) => {
                      const shot = e.target.value.trim() || null;
                      if (shot !== (r.shot ?? null)) set(i, { shot });
                    }}
                  />
                </td>
                <td className="soft">{regionPlace(r.points)}</td>
                <td>
                  {lead && (
                    <button type="button" className="btn-word" aria-label={`Remove region ${i + 1}`} onClick={() => set(i, null)}>
                      Remove
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
