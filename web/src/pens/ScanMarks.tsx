// A scan on which flicks and dots are marked: drag a box about a stroke, say what it is, see what it measures.
import { useRef, useState } from 'react';
import { Form } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useOpen } from '../session';

export type Marked = { mark: Schemas['Mark']; read?: Schemas['MarkRead'] };

const KINDS = [
  ['flick-out', 'a flick out'],
  ['flick-in', 'a flick in'],
  ['dot', 'a held dot'],
] as const;

type Props = { scan: Schemas['ScanView']; marks: Marked[]; onMarks: (marks: Marked[]) => void; src: string };

/** What a mark measured, in a few words. */
function inWords(read: Schemas['MarkRead'] | undefined) {
  if (!read) return 'measuring…';
  if (!read.stroke) return read.problem;
  if (read.stroke.dot_mm != null) return `${read.stroke.dot_mm.toFixed(3)} mm across`;
  return `${(read.stroke.width_mm.length * read.stroke.step_mm).toFixed(1)} mm long, ${Math.max(...read.stroke.width_mm).toFixed(3)} mm at its widest`;
}

export function ScanMarks({ scan, marks, onMarks, src }: Props) {
  const { production } = useOpen();
  const svg = useRef<SVGSVGElement>(null);
  const [kind, setKind] = useState<Schemas['MarkKind']>('flick-out');
  const [open, setOpen] = useState(scan.lines.length === 0);
  const [drag, setDrag] = useState<number[] | null>(null);
  const { error, work } = useWork();
  const place = (e: React.PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0] as const;
    const at = (v: number, low: number, size: number, px: number) => Math.min(px, Math.max(0, ((v - low) / size) * px));
    return [at(e.clientX, box.left, box.width, scan.width_px), at(e.clientY, box.top, box.height, scan.height_px)] as const;
  };
  const measure = (next: Marked[]) =>
    work('Measuring the marks…', async () => {
      onMarks(next);
      if (!next.length) return;
      const read = await take(
        api.POST('/api/v1/productions/{production}/scans/{sha}/marks', {
          params: { path: { production: production.id, sha: scan.sha256 } },
          body: { resolution_dpi: scan.measurement.resolution_dpi, photo: !!scan.measurement.photo, marks: next.map((m) => m.mark) },
        }),
      );
      onMarks(next.map((m, i) => ({ mark: m.mark, read: read[i] })));
    });
  const box = (d: number[]) => {
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = d;
    return [Math.min(x0, x1), Math.min(y0, y1), Math.abs(x1 - x0), Math.abs(y1 - y0)];
  };
  const shown = [...marks.map((m) => m.mark.area), ...(drag ? [box(drag)] : [])];
  return (
    <details className="card-plain mb-2" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <b>Flicks and dots on this {scan.measurement.photo ? 'photo' : 'scan'}</b>{' '}
        <span className="soft tight">mark them to measure tapers and pooling too</span>
      </summary>
      <div className="d-flex gap-3 align-items-start mt-1 flex-wrap">
        <svg
          ref={svg}
          viewBox={`0 0 ${scan.width_px} ${scan.height_px}`}
          role="img"
          aria-label="the scan; drag a box about a stroke"
          style={{ flex: '1 1 480px', maxWidth: 760, maxHeight: 360, border: '1px solid var(--hairline)', cursor: 'crosshair', touchAction: 'none' }}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            setDrag([...place(e), ...place(e)]);
          }}
          onPointerMove={(e) => drag && setDrag([...drag.slice(0, 2), ...place(e)])}
          onPointerUp={() => {
            const area = drag && box(drag);
            setDrag(null);
            if (area && (area[2] ?? 0) > 8 && (area[3] ?? 0) > 8) void measure([...marks, { mark: { kind, area } }]);
          }}
        >
          <image href={src} width={scan.width_px} height={scan.height_px} preserveAspectRatio="none" />
          {scan.lines.map((l, i) => (
            <line
              key={i}
              x1={l.from[0]}
              y1={l.from[1]}
              x2={l.to[0]}
              y2={l.to[1]}
              stroke="var(--eddy)"
              strokeDasharray="4 4"
              vectorEffect="non-scaling-stroke"
            />
          ))}
          {shown.map(([x, y, w, h], i) => (
            <g key={i}>
              <rect
                x={x}
                y={y}
                width={w}
                height={h}
                fill="rgba(14, 90, 98, .08)"
                stroke={marks[i]?.read?.problem ? 'var(--stop)' : 'var(--eddy)'}
                strokeWidth="1.5"
                vectorEffect="non-scaling-stroke"
              />
            </g>
          ))}
        </svg>
        <div style={{ flex: '1 1 240px' }}>
          <Form.Label htmlFor="mark-kind" className="mb-0">
            The next box holds
          </Form.Label>
          <Form.Select id="mark-kind" size="sm" value={kind} onChange={(e) => setKind(e.target.value as Schemas['MarkKind'])} style={{ maxWidth: 200 }}>
            {KINDS.map(([v, label]) => (
              <option key={v} value={v}>
                {label}
              </option>
            ))}
          </Form.Select>
          <p className="soft tight mb-1 mt-1">Drag a box about the whole stroke with paper around it. Broken lines: the ruled lines that were found.</p>
          <Form.Control
            size="sm"
            aria-label="a box typed as left, top, width and height in px"
            placeholder="or type it: left, top, width, height, px"
            style={{ maxWidth: 260 }}
            onKeyDown={(e) => {
              const area = e.currentTarget.value.split(/[ ,;]+/).map(Number);
              if (e.key !== 'Enter' || area.length !== 4 || !area.every(Number.isFinite)) return;
              e.currentTarget.value = '';
              void measure([...marks, { mark: { kind, area } }]);
            }}
          />
          <Problem error={error} />
          {marks.map((m, i) => (
            <div key={i} className="figure-row tight">
              <span>
                {KINDS.find(([k]) => k === m.mark.kind)?.[1]}: <b style={m.read?.problem ? { color: 'var(--stop)' } : undefined}>{inWords(m.read)}</b>
              </span>
              <button type="button" className="btn-word" aria-label={`remove mark ${i + 1}`} onClick={() => measure(marks.filter((_, k) => k !== i))}>
                Remove mark
              </button>
            </div>
          ))}
        </div>
      </div>
    </details>
  );
}
