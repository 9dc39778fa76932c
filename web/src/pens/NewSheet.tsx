// Bringing in a sampler sheet: print one or take blank pixels, drop what comes back, look at every cell, keep the pen.
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { Link, useNavigate } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { EFFORTS } from '../lanes/LinesTable';
import { Assumed } from '../parts/Assumed';
import { Head, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useOpen } from '../session';
import { ResolutionField, SimulatedPen } from './BringIn';
import { NoteFields } from './NoteFields';
import { SheetCell } from './SheetCell';
import { SheetCells } from './SheetCells';
import { cellState, SheetPicture, sheetPictures } from './SheetPicture';

const KINDS = [
  ['pdf', 'PDF to print'],
  ['svg', 'SVG to print'],
  ['png', 'PNG, blank pixels'],
  ['ora', 'OpenRaster, blank pixels'],
] as const;

/** What was read: a scan at its resolution, or a photo by what its printed bars said of widths. */
function howSeen({ width_px, height_px, reading: r }: Schemas['SheetView']) {
  if (!r.photo) return `${width_px}×${height_px} px at ${r.resolution_dpi} dpi`;
  const { px_per_mm, widths } = r.photo;
  const offset = widths ? -widths.offset_um / widths.gain : 0;
  const bars = widths ? ` · widths corrected by the printed bars: ${offset < 0 ? '−' : '+'}${Math.abs(offset).toFixed(0)} µm` : '';
  return `a photo laid flat, ${px_per_mm.toFixed(1)} px to the mm${bars}`;
}

export function NewSheet() {
  const { production } = useOpen();
  const base = `/api/v1/productions/${production.id}`;
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const navigate = useNavigate();
  const [file, setFile] = useState<File | null>(null);
  const [dpi, setDpi] = useState('');
  const [sheet, setSheet] = useState<Schemas['SheetView'] | null>(null);
  const [leftOut, setLeftOut] = useState<string[]>([]);
  const [cell, setCell] = useState<string | null>(null);
  const [name, setName] = useState('');
  const [note, setNote] = useState({ paper: '', ink: '', wear: '', use: '' });
  const [marked, setMarked] = useState<Schemas['Marked'][]>([]);
  const [corners, setCorners] = useState<number[][] | null>(null);
  const [grams, setGrams] = useState<Record<number, string>>({});
  const [paper, setPaper] = useState('a4');
  const [photo, setPhoto] = useState(false);
  const { busy, error, work } = useWork();

  const read = async (f: File, resolution: string, isPhoto: boolean) => {
    setFile(f);
    setSheet(null);
    const found = await sendFiles<Schemas['SheetView']>(`${base}/sheets`, [f], { dpi: isPhoto ? '' : resolution, photo: String(isPhoto) });
    setSheet(found);
    setLeftOut([]);
    setCell(null);
    setMarked([]);
    setCorners(null);
    setName((n) => n || found.known[0]?.name || f.name.replace(/\.[^.]+$/, ''));
  };
  const simulate = (id: string, label: string) =>
    work(`Inking a sheet with the simulated ${label}, and ${photo ? 'photographing' : 'scanning'} it…`, async () => {
      const r = await fetch(`${base}/stand-ins/sheets/${id}?photo=${photo}`);
      setName(label);
      await read(new File([await r.blob()], `${label}.${photo ? 'jpg' : 'png'}`, { type: photo ? 'image/jpeg' : 'image/png' }), '', photo);
    });
  /** Reads the sheet that is on the server once more, with cells where they were marked by hand. */
  const mark = (next: Schemas['Marked'][]) =>
    work('Reading the cell…', async () => {
      if (!sheet) return;
      const again = await take(
        api.POST('/api/v1/productions/{production}/sheets/{sha}', {
          params: { path: { production: production.id, sha: sheet.sha256 } },
          body: { name, resolution_dpi: sheet.reading.resolution_dpi, photo: !!sheet.reading.photo, marked: next },
        }),
      );
      setSheet(again);
      setMarked(next);
      setCorners(null);
    });
  const weights = Object.entries(grams)
    .filter(([, g]) => g.trim())
    .map(([e, g]) => [Number(e), Number(g.replace(',', '.'))]);
  const keep = () =>
    work('Saving…', async () => {
      if (!sheet) return;
      const { resolution_dpi, photo: as } = sheet.reading;
      const body = { name, scan_sha256: sheet.sha256, resolution_dpi, photo: !!as, left_out: leftOut, marked, grams: weights, note };
      const pen = await take(api.POST('/api/v1/productions/{production}/pens/sheet', { params, body }));
      await client.invalidateQueries();
      navigate(`/pens/${pen.id}`);
    });
  const drop = useDropzone({
    multiple: false,
    onDrop: (accepted) => {
      if (accepted[0]) void work('Reading the sheet…', () => read(accepted[0] as File, dpi, photo));
    },
  });
  const r = sheet?.reading;
  const pictures = sheet && sheetPictures(`${base}/images/${sheet.sha256}`, sheet.reading);
  const readable = r?.cells.filter((c) => cellState(c, leftOut.includes(c.id)) !== 'not read').length ?? 0;
  const chosen = r?.cells.find((c) => c.id === cell);
  const title = (id: string) => r?.plan.cells.find((c) => c.id === id)?.title ?? id;
  const choose = (id: string) => {
    setCell(id);
    setCorners(null);
  };
  const toggle = (id: string) => setLeftOut((l) => (l.includes(id) ? l.filter((x) => x !== id) : [...l, id]));

  return (
    <div className="page">
      <Head
        title={r ? `Sheet ${r.plan.number}: ${readable} of ${r.cells.length} cells read` : 'Add a pen from a sheet'}
        says={
          r && sheet
            ? `${file?.name} · ${howSeen(sheet)} · ${r.marks} corner marks · turned ${r.turn_deg.toFixed(2)}° · shading of ${(100 * (r.shading ?? 0)).toFixed(0)} % removed ${r.photo && !r.beside ? '' : `· printed at ${(100 * (r.printed_scale[0] ?? 1)).toFixed(1)} %`}${r.beside ? ` · scale by the ${r.beside.kind} beside it: ${r.beside.dpi.map((d) => d.toFixed(1)).join(' × ')} dpi` : ''}`
            : 'print it, ink it with the pen, scan or photograph it: widths by effort and pace, tapers, nib, dots and edge from one page'
        }
      >
        {!r && (
          <Link to="/pens/new" className="tight">
            only a few ruled lines?
          </Link>
        )}
      </Head>
      <div className="d-flex gap-2 mb-2 flex-wrap">
        {!r && (
          <div className="card-plain" style={{ flex: '1 1 330px' }}>
            <h2>1 · Get a sheet</h2>
            <div className="d-flex gap-2 align-items-center mt-1 flex-wrap">
              <Form.Select size="sm" aria-label="paper of the sheet" value={paper} onChange={(e) => setPaper(e.target.value)} style={{ width: 110 }}>
                <option value="a4">A4</option>
                <option value="letter">Letter</option>
              </Form.Select>
              {KINDS.map(([kind, label]) => (
                <a key={kind} className="btn btn-sm btn-paper" href={`${base}/sampler-sheet/${paper}/${kind}`} download>
                  {label}
                </a>
              ))}
            </div>
            <p className="soft tight mb-0 mt-2">Blank pixels are for a brush of another program: ink them there, and import the PNG or OpenRaster file here.</p>
          </div>
        )}
        <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}`, style: { flex: '1 1 300px' } })}>
          <input {...drop.getInputProps()} aria-label="sheet file" />
          {busy ||
            (r
              ? 'Drop another sheet here to start over'
              : '2 · Drop the scanned, photographed or inked sheet here, or click to choose it: PNG, TIFF, JPEG or OpenRaster')}
        </div>
        <ResolutionField
          value={dpi}
          onChange={setDpi}
          again="Read again"
          ready={!!file && !busy}
          photo={photo}
          onPhoto={setPhoto}
          scaleBy="the sheet tells its scale"
          onAgain={() => file && work('Reading the sheet…', () => read(file, dpi, photo))}
        />
        <SimulatedPen label="Or a sheet by a simulated pen" busy={!!busy} onPick={(id, label) => void simulate(id, label)} />
      </div>
      <Problem error={error} />
      {sheet && r && pictures && (
        <>
          {sheet.known[0] && (
            <div className="notice">
              This sheet was saved before as <Link to={`/pens/${sheet.known[0].id}`}>{sheet.known[0].name}</Link>. Saving it again makes a second record, to be
              compared with the first.
            </div>
          )}
          {r.warnings.map((w) => (
            <div key={w} className="notice">
              {w.charAt(0).toUpperCase() + w.slice(1)}.
            </div>
          ))}
          <Assumed sentences={sheet.card.source?.assumed ?? []} />
          <div className="card-plain mb-2 d-flex gap-3 align-items-end flex-wrap">
            <Form.Group controlId="sheet-pen-name" style={{ flex: '1 1 200px' }}>
              <Form.Label className="mb-0">Name of the pen</Form.Label>
              <Form.Control size="sm" value={name} onChange={(e) => setName(e.target.value)} />
            </Form.Group>
            <NoteFields note={note} onChange={setNote} />
            <Button disabled={!!busy || !name.trim() || weights.some(([, g]) => !Number.isFinite(g))} onClick={keep}>
              Save pen
            </Button>
            <details className="w-100 tight">
              <summary className="soft">A kitchen scale lay under the sheet: note what it showed</summary>
              <div className="d-flex gap-2 mt-1 flex-wrap">
                {EFFORTS.map(([e, word]) => (
                  <Form.Group key={e} controlId={`grams-${e}`} style={{ width: 92 }}>
                    <Form.Label className="mb-0">{word}, g</Form.Label>
                    <Form.Control size="sm" inputMode="decimal" value={grams[e] ?? ''} onChange={(v) => setGrams({ ...grams, [e]: v.target.value })} />
                  </Form.Group>
                ))}
              </div>
            </details>
          </div>
          <div className="d-flex gap-2 align-items-start flex-wrap">
            <div style={{ flex: '1 1 420px', maxWidth: 560, border: '1px solid var(--hairline)' }}>
              <SheetPicture reading={r} width={sheet.width_px} height={sheet.height_px} src={pictures.whole} leftOut={leftOut} onCell={choose} />
            </div>
            <div style={{ flex: '1 1 480px' }}>
              {chosen && (
                <SheetCell
                  sheet={sheet}
                  src={pictures.large}
                  cell={chosen}
                  title={title(chosen.id)}
                  leftOut={leftOut}
                  corners={corners}
                  busy={!!busy}
                  onCorners={setCorners}
                  onMark={(at) => mark([...marked.filter((m) => m.id !== chosen.id), ...(at ? [{ id: chosen.id, corners_px: at }] : [])])}
                />
              )}
              <SheetCells cells={r.cells} title={title} leftOut={leftOut} onChoose={choose} onToggle={toggle} />
            </div>
          </div>
        </>
      )}
    </div>
  );
}
