// Bringing in a pen: drop a scan, see what was found, name it, keep it; the quick way goes on to a brush.
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { LinesTable } from '../lanes/LinesTable';
import { Assumed } from '../parts/Assumed';
import { Head, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useOpen } from '../session';
import { ResolutionField, SimulatedPen } from './BringIn';
import { NoteFields } from './NoteFields';
import { type Marked, ScanMarks } from './ScanMarks';

/** What was read: a scan at its resolution, or a photo by the card in it. */
function howSeen({ width_px, height_px, measurement: m }: Schemas['ScanView']) {
  if (!m.photo) return `${width_px}×${height_px} px at ${m.resolution_dpi} dpi`;
  return `a photo laid flat by the card in it, ${m.photo.px_per_mm.toFixed(1)} px to the mm, widths sure to ±${m.photo.sure_mm.toFixed(3)} mm`;
}

export function NewPen() {
  const { production } = useOpen();
  const base = `/api/v1/productions/${production.id}`;
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const navigate = useNavigate();
  const [file, setFile] = useState<File | null>(null);
  const [dpi, setDpi] = useState('');
  const [scan, setScan] = useState<Schemas['ScanView'] | null>(null);
  const [efforts, setEfforts] = useState<(number | null)[]>([]);
  const [marks, setMarks] = useState<Marked[]>([]);
  const [name, setName] = useState('');
  const [note, setNote] = useState({ paper: '', ink: '', wear: '', use: '' });
  const { busy, error, setError, work } = useWork();

  const [photo, setPhoto] = useState(false);
  const measure = (f: File, resolution: string, isPhoto: boolean) =>
    work(isPhoto ? 'Measuring the photo…' : 'Measuring the scan…', async () => {
      setFile(f);
      setScan(null);
      setMarks([]);
      const found = await sendFiles<Schemas['ScanView']>(`${base}/scans`, [f], { dpi: isPhoto ? '' : resolution, photo: String(isPhoto) });
      setScan(found);
      setEfforts(found.lines.map(() => 0.5));
      setName((n) => n || f.name.replace(/\.[^.]+$/, ''));
    });
  const simulate = (id: string, label: string) =>
    work(photo ? 'Photographing lines of a simulated pen…' : 'Scanning a simulated pen…', async () => {
      const r = await fetch(`${base}/stand-ins/scans/${id}?photo=${photo}`);
      const f = new File([await r.blob()], `${label}.${photo ? 'jpg' : 'png'}`, { type: photo ? 'image/jpeg' : 'image/png' });
      setName(label);
      setFile(f);
      setMarks([]);
      const found = await sendFiles<Schemas['ScanView']>(`${base}/scans`, [f], { photo: String(photo) });
      setScan(found);
      // Scanned at five efforts, photographed at the middle three.
      const each = found.lines.length / (photo ? 3 : 5);
      setEfforts(found.lines.map((_, i) => (Number.isInteger(each) ? (Math.floor(i / each) + (photo ? 1 : 0)) / 4 : 0.5)));
    });
  // A line under a flick's mark is that flick: it says nothing of the width at an effort.
  const counted = efforts.map((e, i) => (scan?.lines[i] && marks.some((m) => m.read?.stroke && within(m.mark.area, scan.lines[i])) ? null : e));
  const keep = (brush: boolean) =>
    work('Saving…', async () => {
      if (!scan) return;
      const body = {
        name,
        scan_sha256: scan.sha256,
        resolution_dpi: scan.measurement.resolution_dpi,
        photo: !!scan.measurement.photo,
        efforts: counted,
        marks: marks.filter((m) => m.read?.stroke).map((m) => m.mark),
        note,
      };
      const pen = await take(api.POST('/api/v1/productions/{production}/pens', { params, body }));
      await client.invalidateQueries();
      if (!brush) return void navigate(`/pens/${pen.id}`);
      const made = await take(api.POST('/api/v1/productions/{production}/brushes', { params, body: { name, pen_id: pen.id } }));
      navigate(`/brushes/${made.id}`);
    });
  const drop = useDropzone({
    multiple: false,
    accept: { 'image/png': [], 'image/tiff': ['.tif', '.tiff'], 'image/jpeg': [] },
    onDrop: (accepted, refused) => {
      if (accepted[0]) void measure(accepted[0], dpi, photo);
      else if (refused.length) setError(new Error('A scan is a PNG, TIFF or JPEG picture; this file is none of them.'));
    },
  });
  const m = scan?.measurement;
  const onlyNormal = counted.every((e) => e === 0.5 || e === null);

  return (
    <div className="page">
      <Head
        title={m ? (m.lines.length === 1 ? '1 ruled line found' : `${m.lines.length || 'No'} ruled lines found`) : 'Add a pen'}
        says={
          scan
            ? `${file?.name} · ${howSeen(scan)} · straightened, the measured edges drawn over the lines`
            : 'rule lines with the pen, scan them at 300 dpi or more, or photograph them beside a bank card'
        }
        state={
          m?.nearest_standard_width_mm ? (
            <>
              <b>{m.nearest_standard_width_mm} mm</b>
              <div className="soft">nearest standard width</div>
            </>
          ) : undefined
        }
      />
      <div className="d-flex gap-3 mb-2 flex-wrap">
        <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}`, style: { flex: '1 1 420px' } })}>
          <input {...drop.getInputProps()} aria-label="scan file" />
          {busy || (scan ? 'Drop another picture here to start over' : 'Drop a scan or photo of ruled lines here, or click to choose it: PNG, TIFF or JPEG')}
        </div>
        <ResolutionField
          value={dpi}
          onChange={setDpi}
          again="Measure again"
          ready={!!file && !busy}
          photo={photo}
          onPhoto={setPhoto}
          scaleBy="the card beside the lines tells its scale"
          onAgain={() => file && measure(file, dpi, photo)}
        />
        <SimulatedPen
          label={photo ? 'Or photograph a simulated pen' : 'Or scan a simulated pen'}
          busy={!!busy}
          onPick={(id, label) => void simulate(id, label)}
        />
      </div>
      <Problem error={error} />
      {m?.warnings.map((w) => (
        <div key={w} className="notice">
          {w}
        </div>
      ))}
      <Assumed sentences={m?.source?.assumed ?? []} />
      {scan && m && (
        <>
          <div className="card-plain mb-2 d-flex gap-3 align-items-end flex-wrap">
            <Form.Group controlId="pen-name" style={{ flex: '1 1 200px' }}>
              <Form.Label className="mb-0">Name of the pen</Form.Label>
              <Form.Control size="sm" value={name} onChange={(e) => setName(e.target.value)} />
            </Form.Group>
            <NoteFields note={note} onChange={setNote} />
            <Button variant="paper" disabled={!!busy} onClick={() => keep(false)}>
              Save pen
            </Button>
            <Button disabled={!!busy} onClick={() => keep(true)}>
              Save pen and make a brush
            </Button>
            {onlyNormal && (
              <div className="soft tight w-100">
                All lines count as of normal effort: the brush will have this width at every effort, and says so. Say which lines were ruled lighter or harder
                to get its weight curve.
              </div>
            )}
          </div>
          <ScanMarks scan={scan} marks={marks} onMarks={setMarks} src={`${base}/images/${scan.sha256}/preview${m.photo ? '?laid=true' : ''}`} />
          <LinesTable measurement={m} lines={scan.lines} efforts={counted} onEffort={(i, e) => setEfforts(efforts.map((x, k) => (k === i ? e : x)))} />
        </>
      )}
    </div>
  );
}

/** Whether a line's middle lies in a box. */
function within(area: number[], line: Schemas['PenLine'] | undefined) {
  const [x = 0, y = 0, w = 0, h = 0] = area;
  const [mx, my] = [0, 1].map((k) => ((line?.from[k] ?? -1) + (line?.to[k] ?? -1)) / 2) as [number, number];
  return mx >= x && mx <= x + w && my >= y && my <= y + h;
}
