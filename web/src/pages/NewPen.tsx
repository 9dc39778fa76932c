// Bringing in a pen: drop a scan, see what was found, name it, keep it; the quick way goes on to a brush.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { LinesTable } from '../lanes/LinesTable';
import { Head, Problem } from '../lanes/states';
import { useOpen } from '../session';

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
  const [name, setName] = useState('');
  const [note, setNote] = useState({ paper: '', ink: '', wear: '', use: '' });
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState('');
  const standIns = useQuery({ queryKey: ['stand-ins', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/stand-ins', { params })) });

  const work = async (what: string, f: () => Promise<void>) => {
    setBusy(what);
    setError(null);
    try {
      await f();
    } catch (e) {
      setError(e);
    } finally {
      setBusy('');
    }
  };
  const measure = (f: File, resolution: string) =>
    work('Measuring the scan…', async () => {
      setFile(f);
      setScan(null);
      const found = await sendFiles<Schemas['ScanView']>(`${base}/scans`, [f], { dpi: resolution });
      setScan(found);
      setEfforts(found.lines.map(() => 0.5));
      setName((n) => n || f.name.replace(/\.[^.]+$/, ''));
    });
  const simulate = (id: string, label: string) =>
    work('Scanning a simulated pen…', async () => {
      const r = await fetch(`${base}/stand-ins/scans/${id}`);
      const f = new File([await r.blob()], `${label}.png`, { type: 'image/png' });
      setName(label);
      setFile(f);
      const found = await sendFiles<Schemas['ScanView']>(`${base}/scans`, [f], {});
      setScan(found);
      const each = found.lines.length / 5;
      setEfforts(found.lines.map((_, i) => (Number.isInteger(each) ? Math.floor(i / each) / 4 : 0.5)));
    });
  const keep = (brush: boolean) =>
    work('Keeping the pen…', async () => {
      if (!scan) return;
      const body = { name, scan_sha256: scan.sha256, resolution_dpi: scan.measurement.resolution_dpi, efforts, note };
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
      if (accepted[0]) void measure(accepted[0], dpi);
      else if (refused.length) setError(new Error('A scan is a PNG, TIFF or JPEG picture; this file is none of them.'));
    },
  });
  const m = scan?.measurement;
  const onlyNormal = efforts.every((e) => e === 0.5 || e === null);

  return (
    <div className="page">
      <Head
        title={m ? (m.lines.length === 1 ? '1 ruled line found' : `${m.lines.length} ruled lines found`) : 'Bring in a pen'}
        says={
          scan
            ? `${file?.name} · ${scan.width_px}×${scan.height_px} px at ${m?.resolution_dpi} dpi · straightened, the measured edges drawn over the scan`
            : 'rule lines with the pen, scan them at 300 dpi or more'
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
          {busy || (scan ? 'Drop another scan here to start over' : 'Drop a scan of ruled lines here, or click to choose it: PNG, TIFF or JPEG')}
        </div>
        <div className="card-plain" style={{ flex: '0 1 250px' }}>
          <Form.Label htmlFor="dpi" className="mb-0">
            Resolution, if the file has none
          </Form.Label>
          <div className="d-flex gap-2">
            <Form.Control id="dpi" size="sm" inputMode="numeric" value={dpi} placeholder="dpi" onChange={(e) => setDpi(e.target.value)} />
            <Button size="sm" variant="paper" disabled={!file || !dpi || !!busy} onClick={() => file && measure(file, dpi)}>
              Measure again
            </Button>
          </div>
        </div>
        <div className="card-plain" style={{ flex: '0 1 230px' }}>
          <Form.Label htmlFor="simulated-pen" className="mb-0">
            Or scan a simulated pen
          </Form.Label>
          <Form.Select
            id="simulated-pen"
            size="sm"
            value=""
            disabled={!!busy}
            onChange={(e) => {
              const p = standIns.data?.pens.find((x) => x.id === e.target.value);
              if (p) void simulate(p.id, p.name);
            }}
          >
            <option value="">choose one…</option>
            {standIns.data?.pens.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </Form.Select>
        </div>
      </div>
      <Problem error={error} />
      {m?.warnings.map((w) => (
        <div key={w} className="notice">
          {w}
        </div>
      ))}
      {scan && m && (
        <>
          <div className="card-plain mb-2 d-flex gap-3 align-items-end flex-wrap">
            <Form.Group controlId="pen-name" style={{ flex: '1 1 200px' }}>
              <Form.Label className="mb-0">Name of the pen</Form.Label>
              <Form.Control size="sm" value={name} onChange={(e) => setName(e.target.value)} />
            </Form.Group>
            {(['paper', 'ink', 'wear', 'use'] as const).map((k) => (
              <Form.Group key={k} controlId={`note-${k}`} style={{ flex: '1 1 110px' }}>
                <Form.Label className="mb-0">{k.charAt(0).toUpperCase() + k.slice(1)}</Form.Label>
                <Form.Control size="sm" value={note[k]} onChange={(e) => setNote({ ...note, [k]: e.target.value })} />
              </Form.Group>
            ))}
            <Button variant="paper" disabled={!!busy} onClick={() => keep(false)}>
              Keep the pen
            </Button>
            <Button disabled={!!busy} onClick={() => keep(true)}>
              Keep and make a brush
            </Button>
            {onlyNormal && (
              <div className="soft tight w-100">
                All lines count as of normal effort: the brush will have this width at every effort, and says so. Say which lines were ruled lighter or harder
                to get its weight curve.
              </div>
            )}
          </div>
          <LinesTable measurement={m} lines={scan.lines} efforts={efforts} onEffort={(i, e) => setEfforts(efforts.map((x, k) => (k === i ? e : x)))} />
        </>
      )}
    </div>
  );
}
