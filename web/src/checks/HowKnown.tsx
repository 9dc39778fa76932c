// How a delivery's drawings are known: by a file-name pattern, a manifest, or by hand; with what each name gives, and what is missing.
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { api, take } from '../api/client';
import { Conflict } from '../parts/Conflict';
import { Problem } from '../parts/states';
import { tableText } from '../parts/table';
import { useOpen } from '../session';

const COLUMNS = ['artist', 'shot', 'character', 'drawing', 'exposure', 'kind', 'shot_size', 'tablet', 'brush', 'drawn_at', 'take', 'picture_kind'];
export type Known = { pattern: string; csv: string | null; rows: Record<string, Record<string, string>> };

/** What would be known of files, with fields that can be typed over where `onRows` is given. */
type PreviewProps = { files: string[]; known: Known; guide: string | undefined; onRows?: (rows: Known['rows']) => void };

export function NamesPreview({ files, known, guide, onRows }: PreviewProps) {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const read = useQuery({
    queryKey: ['names', known.pattern, known.csv, files, guide],
    retry: false,
    placeholderData: (before) => before,
    queryFn: () =>
      take(api.POST('/api/v1/productions/{production}/names', { params, body: { pattern: known.pattern, csv: known.csv, files, guide_id: guide } })),
  });
  if (read.error) return <Problem error={read.error} />;
  const rows = read.data?.read ?? [];
  const odd = rows.filter((r) => !r.fields).length;
  const found = COLUMNS.filter((c) => rows.some((r) => r.fields?.[c]) || Object.values(known.rows).some((r) => r[c]));
  const saidIn = (r: (typeof rows)[number], c: string) => known.rows[r.file]?.[c] ?? r.fields?.[c] ?? '';
  /** What a field says that the guide does not know: the drawing cannot be checked. */
  const wrong = (c: string, value: string) => {
    const allowed = read.data?.allowed[c];
    if (!value || !allowed || allowed.includes(value)) return null;
    return `“${value}” is no ${c.replace('_', ' ')}${c === 'shot_size' ? ' of the guide' : ''} (${allowed.join(', ') || 'it has none'})`;
  };
  const refused = new Map<string, number>();
  for (const r of rows) for (const c of found) for (const w of [wrong(c, saidIn(r, c))]) if (w) refused.set(w, (refused.get(w) ?? 0) + 1);
  const columns = onRows ? [...new Set(['shot', 'drawing', 'artist', ...found])] : found;
  return (
    <>
      <div className="tight mb-1">
        {odd ? `${odd} of ${rows.length} files are not known: nothing but the picture is known of them` : `all ${rows.length} files are known`}
      </div>
      {(read.data?.missing ?? []).map((m) => (
        <div key={m} className="tight" style={{ color: 'var(--warn)' }}>
          {m}
        </div>
      ))}
      {(read.data?.absent.length ?? 0) > 0 && (
        <div className="tight" style={{ color: 'var(--warn)' }}>
          in the manifest and not here: {read.data?.absent.slice(0, 8).join(', ')}
        </div>
      )}
      {[...refused].map(([says, n]) => (
        <div key={says} className="tight" style={{ color: 'var(--stop)' }}>
          {says}: {n === 1 ? '1 drawing' : `${n} drawings`} cannot be checked
        </div>
      ))}
      <div style={{ maxHeight: 210, overflowY: 'auto' }}>
        <table className="plain-table">
          <thead>
            <tr>
              <th>File</th>
              {columns.map((c) => (
                <th key={c}>{c.replace('_', ' ')}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, 60).map((r) => (
              <tr key={r.file}>
                <td>{r.file}</td>
                {columns.map((c) => {
                  const [value, odd] = [saidIn(r, c), wrong(c, saidIn(r, c))];
                  return (
                    <td key={c} title={odd ?? undefined} style={odd ? { color: 'var(--stop)', fontWeight: 600 } : undefined}>
                      {onRows ? (
                        <input
                          className="figure"
                          style={{ width: 96, textAlign: 'left', borderColor: odd ? 'var(--stop)' : undefined }}
                          aria-label={`${c} of ${r.file}`}
                          aria-invalid={!!odd}
                          placeholder="not known"
                          value={value}
                          onChange={(e) => onRows({ ...known.rows, [r.file]: { ...known.rows[r.file], [c]: e.target.value } })}
                        />
                      ) : (
                        value || <span className="soft">not known</span>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length > 60 && <div className="tight soft">and {rows.length - 60} more</div>}
    </>
  );
}

/** A manifest brought in as CSV. */
export function ManifestFile({ known, onKnown }: { known: Known; onKnown: (k: Known) => void }) {
  return (
    <Form.Group controlId="manifest">
      <Form.Label className="mb-0">Manifest as CSV{known.csv ? ', read' : ', if there is one'}</Form.Label>
      <Form.Control
        size="sm"
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        onChange={async (e) => {
          const file = (e.target as HTMLInputElement).files?.[0];
          onKnown({ ...known, csv: file ? await tableText(file) : null });
        }}
      />
    </Form.Group>
  );
}

/** What somebody else said meanwhile of names and manifest. */
export type OtherNaming = { version: number; pattern: string; rows: Known['rows'] };
type HowProps = {
  files: string[];
  guide: string;
  pattern: string;
  version: number;
  onSet: (k: Known, from: number) => Promise<OtherNaming | null>;
  onTheirs: () => void;
};

/** Sets how they are known; the version is the one that was looked at when it was opened. */
export function HowKnown({ files, guide, pattern, version, onSet, onTheirs }: HowProps) {
  const [known, setKnown] = useState<Known>({ pattern, csv: null, rows: {} });
  const [from] = useState(version);
  const [other, setOther] = useState<OtherNaming | null>(null);
  const own = Object.keys(known.rows).length;
  return (
    <div className="card-plain mb-2">
      <div className="d-flex gap-2 align-items-end mb-2">
        <Form.Group controlId="pattern" style={{ flex: 1 }}>
          <Form.Label className="mb-0">Name pattern</Form.Label>
          <Form.Control size="sm" value={known.pattern} onChange={(e) => setKnown({ ...known, pattern: e.target.value })} />
        </Form.Group>
        <ManifestFile known={known} onKnown={setKnown} />
        <Button size="sm" variant="paper" disabled={!!other} onClick={async () => setOther(await onSet(known, from))}>
          Save names
        </Button>
      </div>
      {other && (
        <Conflict
          what="names and manifest"
          keep="Save mine"
          mine={
            <div className="tight">
              {known.pattern || 'no pattern'}
              {known.csv ? ', a manifest' : ''}
              {own ? `, ${own} files typed over` : ''}
            </div>
          }
          theirs={
            <div className="tight">
              {other.pattern || 'no pattern'}, {Object.keys(other.rows).length} files in the manifest
            </div>
          }
          onMine={async () => setOther(await onSet(known, other.version))}
          onTheirs={onTheirs}
        />
      )}
      <NamesPreview files={files} guide={guide} known={known} onRows={(rows) => setKnown({ ...known, rows })} />
    </div>
  );
}
