// Compare with my page: widths and tapers of one's own inked page, scanned, beside those of a trial page inked with the brush.
import { useMutation, useQuery } from '@tanstack/react-query';
import { scaleLinear } from 'd3-scale';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { Link, useParams } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { Axes } from '../lanes/Axes';
import { pathOf } from '../lanes/Lane';
import { useLasting } from '../parts/lasting';
import { Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { headline, said } from './myPage';

type Scan = { sha256: string; dpi: number; name: string };
const [W, H] = [520, 230];
const points = (v: number[][]): [number, number][] => v.map(([x = 0, y = 0]) => [x, y]);

type Curves = { title: string; says: string; label: string; mine: number[][]; trial: number[][]; across: number; up: number };

function Two({ title, says, label, mine, trial, across, up }: Curves) {
  const x = scaleLinear([0, across], [44, W - 8]);
  const y = scaleLinear([0, up], [H - 26, 8]);
  return (
    <div className="card-plain" style={{ flex: '1 1 440px' }}>
      <h2>{title}</h2>
      <div className="soft tight">{says}</div>
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label={label}>
        <path d={pathOf(points(mine), x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
        <path d={pathOf(points(trial), x, y)} fill="none" stroke="var(--eddy)" strokeWidth="2.2" strokeDasharray="7 3" />
        <Axes x={x} y={y} top={H - 26} left={44} />
      </svg>
    </div>
  );
}

function Key({ of, broken = false }: { of: string; broken?: boolean }) {
  return (
    <span className="tight">
      <svg width="34" height="8" aria-hidden="true">
        <path d="M0 4H34" stroke={broken ? 'var(--eddy)' : 'var(--ink)'} strokeWidth="2.2" strokeDasharray={broken ? '7 3' : undefined} />
      </svg>{' '}
      {of}
    </span>
  );
}

function Result({ found }: { found: Schemas['PagesBeside'] }) {
  const { mine, trial, changes } = found;
  const most = (v: number[][]) => Math.max(0, ...v.map((p) => p[1] ?? 0));
  const far = Math.max(1, ...[...mine.taper, ...trial.taper].map((p) => p[0] ?? 0));
  const rows: [string, (p: Schemas['PageInk']) => string][] = [
    ['lines', (p) => `${p.lines}`],
    ['length of their bodies', (p) => `${p.length_mm.toFixed(0)} mm`],
    ['free ends', (p) => `${p.ends}, ${p.tapered} of them taper`],
  ];
  return (
    <>
      <div className="d-flex gap-3 flex-wrap align-items-baseline mb-2">
        <b className="me-auto">{headline(changes)}</b>
        <Key of="your page" />
        <Key of="trial page" broken />
      </div>
      {found.warnings.map((w) => (
        <div key={w} className="notice tight">
          {w.charAt(0).toUpperCase() + w.slice(1)}.
        </div>
      ))}
      <div className="d-flex gap-2 flex-wrap align-items-start">
        <Two
          title="Widths"
          says="from the thinnest to the widest stretch, in % of the line’s length; upward: mm"
          label="widths of your page and of the trial page, from the thinnest to the widest"
          mine={mine.widths.map(([s = 0, w = 0]) => [100 * s, w])}
          trial={trial.widths.map(([s = 0, w = 0]) => [100 * s, w])}
          across={100}
          up={1.1 * Math.max(0.1, most(mine.widths), most(trial.widths))}
        />
        <Two
          title="Tapers"
          says="from the tip of the middle one, mm; upward: its width, in % of the body’s"
          label="tapers of your page and of the trial page, from the tip"
          mine={mine.taper.map(([s = 0, w = 0]) => [s, 100 * w])}
          trial={trial.taper.map(([s = 0, w = 0]) => [s, 100 * w])}
          across={far}
          up={115}
        />
      </div>
      <table className="table table-sm mt-2" style={{ background: 'var(--paper)' }}>
        <thead>
          <tr>
            <th>figure</th>
            <th className="text-end">your page</th>
            <th className="text-end">trial page</th>
            <th>difference, 95 %</th>
          </tr>
        </thead>
        <tbody>
          {changes.map((c) => {
            const [before, after, words] = said(c);
            return (
              <tr key={c.figure}>
                <td>{c.figure}</td>
                <td className="text-end">{before}</td>
                <td className="text-end">{after}</td>
                <td style={{ fontWeight: c.changed ? 600 : 400 }}>{words}</td>
              </tr>
            );
          })}
          {rows.map(([name, of]) => (
            <tr key={name} className="soft">
              <td>{name}</td>
              <td className="text-end">{of(mine)}</td>
              <td className="text-end">{of(trial)}</td>
              <td />
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

export function MyPage() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const params = { path: { production: production.id, id } };
  const trial = useQuery({
    queryKey: ['trial-saved', id],
    staleTime: 0,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/trials/{id}', { params })),
  });
  const [scan, setScan] = useLasting<Scan | null>(`my-page-${id}`, null);
  const [dpi, setDpi] = useState('');
  const found = useQuery({
    queryKey: ['my-page', id, scan?.sha256, scan?.dpi, trial.data?.revision],
    enabled: !!scan && !!trial.data,
    retry: false,
    queryFn: () =>
      take(
        api.GET('/api/v1/productions/{production}/trials/{id}/beside/{sha}', {
          params: { path: { ...params.path, sha: scan?.sha256 ?? '' }, query: { resolution_dpi: scan?.dpi } },
        }),
      ),
  });
  const bring = useMutation({
    mutationFn: async (file: File) => {
      const s = await sendFiles<Schemas['ScanView']>(`/api/v1/productions/${production.id}/scans`, [file], dpi ? { dpi } : {});
      setScan({ sha256: s.sha256, dpi: s.measurement.resolution_dpi, name: file.name });
    },
  });
  const drop = useDropzone({ multiple: false, onDrop: ([file]) => file && bring.mutate(file) });
  if (trial.isLoading) return <Loading what="the trial page" />;
  if (!trial.data)
    return (
      <div className="page">
        <Problem error={trial.error} />
      </div>
    );
  const { page } = trial.data;
  const rough = page.rough;
  return (
    <div className="page">
      <Head title="Compare with my page" says={`${trial.data.name} · ${page.strokes.length} strokes · nothing is saved`}>
        <Link to={`/brushes/trials/${id}`}>Back to the trial page</Link>
      </Head>
      <p className="soft">
        Your own page, inked with the pen and scanned, beside this trial page, inked with the brush. Both are measured alike. They compare best where both are
        the same drawing: put the scan under a trial page as its rough, and ink over it.
      </p>
      <div className="d-flex gap-2 flex-wrap mb-2">
        <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}`, style: { flex: '1 1 320px' } })}>
          <input {...drop.getInputProps()} aria-label="scan of your page" />
          {scan ? (
            <span>
              <b>{scan.name}</b>, at {scan.dpi.toFixed(0)} dpi. Drop another scan to replace it.
            </span>
          ) : (
            <span>Drop the scan of your inked page here, or choose it.</span>
          )}
        </div>
        <Form.Group controlId="my-page-dpi" className="card-plain" style={{ flex: '0 1 240px' }}>
          <Form.Label className="mb-0">Resolution, if the file has none</Form.Label>
          <Form.Control size="sm" inputMode="numeric" value={dpi} placeholder="dpi" onChange={(e) => setDpi(e.target.value)} />
        </Form.Group>
        {rough && scan?.sha256 !== rough && (
          <div className="card-plain" style={{ flex: '0 1 300px' }}>
            <div className="mb-1">The rough of this trial page is the scan of your page?</div>
            <Button variant="paper" size="sm" onClick={() => setScan({ sha256: rough, dpi: 25.4 * page.px_per_mm, name: 'the rough of this trial page' })}>
              Compare with the rough
            </Button>
          </div>
        )}
      </div>
      <Problem error={bring.error ?? found.error} />
      {(bring.isPending || found.isFetching) && (
        <div className="soft tight" role="status">
          measuring both pages…
        </div>
      )}
      {found.data && <Result found={found.data} />}
    </div>
  );
}
