// Roles read off a model sheet: an approved drawing is brought in, its lines are pointed at, and they become a role.
import { useState } from 'react';
import { Button } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { runs } from '../parts/picture';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

export function ModelSheet({ guide, onRole }: { guide: Schemas['LineGuide']; onRole: (r: Schemas['Role']) => void }) {
  const { production } = useOpen();
  const base = `/api/v1/productions/${production.id}`;
  const [read, setRead] = useState<Schemas['ModelSheetView'] | null>(null);
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const [name, setName] = useState('');
  const [told, setTold] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const drop = useDropzone({
    multiple: false,
    onDrop: async (files) => {
      setError(null);
      setBusy(true);
      try {
        setRead(await sendFiles<Schemas['ModelSheetView']>(`${base}/model-sheets`, files));
        setChosen(new Set());
      } catch (e) {
        setError(e);
      }
      setBusy(false);
    },
  });
  const sheet = read?.sheet;
  const k = (sheet?.width_px ?? 0) / 900;
  const flip = (i: number) => {
    const next = new Set(chosen);
    if (!next.delete(i)) next.add(i);
    setChosen(next);
  };
  const of = [...chosen].flatMap((i) => sheet?.lines[i] ?? []);
  const colour = sheet && of[0] ? sheet.colours[of[0].line.role] : undefined;
  return (
    <section className="card-plain mt-2" aria-label="model sheet">
      <Problem error={error} />
      {!sheet ? (
        <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}` })}>
          <input {...drop.getInputProps()} aria-label="model sheet drawing" />
          {busy ? 'Measuring its lines…' : 'Drop an approved drawing here, or click to choose: PNG, TIFF, JPEG, SVG or OpenRaster'}
        </div>
      ) : (
        <>
          <div className="d-flex gap-3 align-items-center tight mb-2 flex-wrap">
            <span>
              {sheet.lines.length} lines in {sheet.colours.length} {sheet.colours.length === 1 ? 'colour' : 'colours'}; point at those of one role, or take all
              of a colour:
            </span>
            {sheet.colours.map((c, role) => (
              <button
                key={c}
                type="button"
                className="btn-word"
                onClick={() => setChosen(new Set(sheet.lines.flatMap((l, i) => (l.line.role === role ? [i] : []))))}
              >
                <span className="swatch" style={{ background: c }} /> {c}
              </button>
            ))}
            <button type="button" className="btn-word" onClick={() => setRead(null)}>
              Another sheet
            </button>
          </div>
          <svg
            viewBox={`0 0 ${sheet.width_px} ${sheet.height_px}`}
            width="100%"
            style={{ background: '#fff', maxHeight: 380 }}
            aria-label="lines of the model sheet"
          >
            {sheet.lines.map((l, i) => {
              const d = runs([l.line])
                .map((r) => r.d)
                .join('');
              const says = `line ${i + 1}, ${l.mean_px.toFixed(2)} px, ${l.least_px.toFixed(1)} to ${l.greatest_px.toFixed(1)}${l.mostly_taper ? ', mostly taper' : ''}`;
              return (
                <g
                  key={i}
                  role="checkbox"
                  aria-checked={chosen.has(i)}
                  aria-label={says}
                  tabIndex={0}
                  onClick={() => flip(i)}
                  onKeyDown={(e) => {
                    if (e.key === ' ' || e.key === 'Enter') {
                      e.preventDefault();
                      flip(i);
                    }
                  }}
                  style={{ cursor: 'pointer' }}
                >
                  <title>{says}</title>
                  <path d={d} fill="none" stroke="transparent" strokeWidth={14 * k} />
                  {chosen.has(i) && <path d={d} fill="none" stroke="var(--eddy)" strokeOpacity="0.35" strokeWidth={l.mean_px + 10 * k} strokeLinecap="round" />}
                  <path d={d} fill="none" stroke={sheet.colours[l.line.role]} strokeWidth={l.mean_px} strokeLinecap="round" />
                </g>
              );
            })}
          </svg>
          <form
            className="d-flex gap-2 align-items-center tight mt-2"
            onSubmit={async (e) => {
              e.preventDefault();
              setError(null);
              try {
                const made = await take(
                  api.POST('/api/v1/productions/{production}/model-sheets/{sha}/role', {
                    params: { path: { production: production.id, sha: read.sha256 } },
                    body: { name, page: guide.page, lines: [...chosen] },
                  }),
                );
                onRole(made.role);
                setTold(readFrom(made));
                setName('');
                setChosen(new Set());
              } catch (e) {
                setError(e);
              }
            }}
          >
            <input
              className="figure"
              style={{ width: 150, textAlign: 'left' }}
              placeholder="name of the role"
              aria-label="name of the role"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <Button size="sm" variant="paper" type="submit" disabled={!chosen.size || !name.trim()}>
              Make a role of {chosen.size} {chosen.size === 1 ? 'line' : 'lines'}
            </Button>
            {of.length > 0 && (
              <span className="soft">
                {of
                  .map((l) => l.mean_px.toFixed(1))
                  .slice(0, 8)
                  .join(', ')}
                {of.length > 8 ? ' …' : ''} px, {colour}
              </span>
            )}
          </form>
          {told && (
            <div className="soft tight" role="status">
              {told}
            </div>
          )}
        </>
      )}
    </section>
  );
}

/** What a role was read from, in a sentence. */
function readFrom({ role, measured_share, mostly_taper }: Schemas['RoleRead']) {
  const share = `${role.name} was read from ${Math.round(100 * measured_share)} % of the lines’ length`;
  const rest = measured_share < 0.98 ? '; the rest lies at ends, crossings and corners' : '';
  const swell = role.weight_px?.swell;
  const shape = swell ? `. Its lines swell from ${swell[0]} to ${swell[1]} px` : '';
  return `${share}${rest}${shape}${mostly_taper && swell ? ' and are mostly taper' : ''}.`;
}
