// The page's scan and, where it was recorded elsewhere, its strokes: from the pen's own scan, from files, or by the simulated hand.

import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useOpen } from '../session';
import type { PageScan, Way } from './pairsPage';

type Props = {
  way: Way;
  pen: string;
  scan: PageScan | null;
  onScan: (scan: PageScan) => void;
  onRecording: (inkml: string) => void;
  onSimulated: (scan: PageScan, inkml: string) => void;
};

/** Sides of a picture in this browser. */
async function sides(url: string) {
  const picture = new Image();
  picture.src = url;
  await picture.decode();
  return [picture.naturalWidth, picture.naturalHeight] as const;
}

export function PairsScan({ way, pen, scan, onScan, onRecording, onSimulated }: Props) {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const { busy, error, work } = useWork();
  const [dpi, setDpi] = useState('');
  const [hand, setHand] = useState('steady');
  const [device, setDevice] = useState('display-16');
  const [simulated, setSimulated] = useState('steel-nib');
  const standIns = useQuery({ queryKey: ['stand-ins', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/stand-ins', { params })) });
  const own = useQuery({
    queryKey: ['pen', pen],
    enabled: !!pen && way === 'over',
    queryFn: () => take(api.GET('/api/v1/productions/{production}/pens/{id}', { params: { path: { ...params.path, id: pen } } })),
  });
  const image = (sha: string) => `/api/v1/productions/${production.id}/images/${sha}`;
  const of = own.data;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a pen's own scan lies there at once, where no other does
  useEffect(() => {
    if (way !== 'over' || !of || scan) return;
    const [w, h] = [of.sheet?.width_px, of.sheet?.height_px];
    const found = w && h ? Promise.resolve([w, h] as const) : sides(image(of.scan_sha256));
    found
      .then(([width_px, height_px]) => onScan({ sha256: of.scan_sha256, dpi: of.card.resolution_dpi, width_px, height_px, name: `the scan of ${of.name}` }))
      .catch(() => undefined);
  }, [of, way, !scan]);
  const drop = useDropzone({
    multiple: true,
    onDrop: (files) =>
      work('reading', async () => {
        for (const f of files) {
          if (/\.(inkml|xml)$/i.test(f.name)) {
            onRecording(await f.text());
            continue;
          }
          const s = await sendFiles<Schemas['ScanView']>(`/api/v1/productions/${production.id}/scans`, [f], dpi ? { dpi } : {});
          onScan({ sha256: s.sha256, dpi: s.measurement.resolution_dpi, width_px: s.width_px, height_px: s.height_px, name: f.name });
        }
      }),
  });
  const simulate = () =>
    work('drawing', async () => {
      const page = await take(api.POST('/api/v1/productions/{production}/stand-ins/pairs', { params, body: { hand, tablet: device, pen: simulated, way } }));
      const [width_px, height_px] = await sides(image(page.scan_sha256));
      const name = 'a simulated page';
      onSimulated({ sha256: page.scan_sha256, dpi: page.resolution_dpi, width_px, height_px, name }, page.inkml);
    });
  const choice = (id: string, label: string, value: string, set: (v: string) => void, from: { id: string; name: string }[] | undefined) => (
    <Form.Group controlId={id}>
      <Form.Label className="mb-0">{label}</Form.Label>
      <Form.Select size="sm" value={value} onChange={(e) => set(e.target.value)}>
        {from?.map((h) => (
          <option key={h.id} value={h.id}>
            {h.name}
          </option>
        ))}
      </Form.Select>
    </Form.Group>
  );
  return (
    <>
      <Problem error={error} />
      <div className="d-flex gap-2 flex-wrap">
        <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}`, style: { flex: '1 1 320px' } })}>
          <input {...drop.getInputProps()} aria-label="scan of the page, or stroke file" />
          {scan ? (
            <span>
              <b>{scan.name}</b>, {scan.width_px} × {scan.height_px} px at {scan.dpi} dpi. Drop another scan to replace it, or the strokes as a stroke file
              (InkML).
            </span>
          ) : (
            <span>
              Drop the scan of the page here{way === 'over' ? ', or choose a pen above whose scan lies under the stylus' : ''}. Strokes that were recorded
              elsewhere: drop them as a stroke file (InkML).
            </span>
          )}
        </div>
        <Form.Group controlId="pairs-dpi" className="card-plain" style={{ flex: '0 1 200px' }}>
          <Form.Label className="mb-0">Resolution, if the file has none</Form.Label>
          <Form.Control size="sm" inputMode="numeric" value={dpi} placeholder="dpi" onChange={(e) => setDpi(e.target.value)} />
        </Form.Group>
        <div className="card-plain" style={{ flex: '1 1 460px' }}>
          <h2>Or let the simulated hand do it</h2>
          <div className="d-flex gap-2 align-items-end mt-1 flex-wrap">
            {choice('pairs-hand', 'Hand', hand, setHand, standIns.data?.hands)}
            {choice('pairs-device', 'Tablet', device, setDevice, standIns.data?.tablets)}
            {choice('pairs-simulated', 'Pen', simulated, setSimulated, standIns.data?.pens)}
            <Button variant="paper" size="sm" disabled={!!busy} onClick={simulate}>
              Draw for me
            </Button>
          </div>
        </div>
      </div>
    </>
  );
}
