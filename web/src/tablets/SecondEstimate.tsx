// The response once more, by the quantiles of free drawing with a pen on paper and with the stylus on this tablet.

import { useQuery } from '@tanstack/react-query';
import { scaleLinear } from 'd3-scale';
import { useState } from 'react';
import { Form } from 'react-bootstrap';
import { Link } from 'react-router';
import { api, take } from '../api/client';
import { pathOf } from '../lanes/Lane';
import { usePens } from '../parts/lists';
import { useOpen } from '../session';

const [W, H] = [420, 190];
const text = { fontSize: 12, fill: 'var(--ink-soft)', fontFamily: 'var(--tight)' };

export function SecondEstimate({ id }: { id: string }) {
  const { production } = useOpen();
  const pens = usePens();
  const able = (pens.data ?? []).filter((p) => p.card.free_line);
  const [chosen, setChosen] = useState('');
  const grows = (p: (typeof able)[number]) => {
    const w = p.card.widths_by_effort ?? [];
    return (w[w.length - 1]?.width_mm ?? 0) > 1.3 * (w[0]?.width_mm ?? 1);
  };
  const pen = chosen || able.find((p) => p.card.nib?.law === 'round' && grows(p))?.id || able[0]?.id || '';
  const found = useQuery({
    queryKey: ['second-estimate', id, pen],
    enabled: !!pen,
    retry: false,
    queryFn: () =>
      take(api.GET('/api/v1/productions/{production}/profiles/{id}/second-estimate/{pen}', { params: { path: { production: production.id, id, pen } } })),
  });
  const points = found.data?.points ?? [];
  const x = scaleLinear([0, Math.max(0.2, ...points.map((p) => p[0] ?? 0)) * 1.1], [36, W - 6]);
  const y = scaleLinear([0, 1], [H - 24, 8]);
  const line = (k: number) =>
    pathOf(
      points.map((p) => [p[0] ?? 0, p[k] ?? 0]),
      x,
      y,
    );
  return (
    <div className="card-plain" style={{ flex: '1 1 420px' }}>
      <div className="d-flex justify-content-between gap-2">
        <h2>The same response by free drawing</h2>
        {able.length > 0 && (
          <Form.Select size="sm" aria-label="pen of the free line" value={pen} onChange={(e) => setChosen(e.target.value)} style={{ maxWidth: 220 }}>
            {able.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </Form.Select>
        )}
      </div>
      <div className="soft tight">
        What was drawn under equal shares of the way, on paper and on the tablet, is taken for equal effort. It needs no exercise to be followed.
      </div>
      {!pens.isLoading && able.length === 0 && (
        <p className="tight mb-0 mt-1">
          No pen of the drawer has a free line yet: <Link to="/pens/sheet">add a pen from a sheet</Link> with its free line inked.
        </p>
      )}
      {found.error && <p className="tight mb-0 mt-1">No second estimate: {found.error.message}.</p>}
      {found.data && (
        <>
          <svg
            viewBox={`0 0 ${W} ${H}`}
            width="100%"
            style={{ maxWidth: 560, display: 'block' }}
            role="img"
            aria-label="response by free drawing over the response of the warm-up"
          >
            {[0, 0.5, 1].map((t) => (
              <g key={t}>
                <line x1="36" x2={W - 6} y1={y(t)} y2={y(t)} stroke="var(--hairline)" />
                <text x="32" y={y(t) + 4} textAnchor="end" {...text}>
                  {t}
                </text>
              </g>
            ))}
            <path d={line(1)} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
            <path d={line(2)} fill="none" stroke="var(--ink-soft)" strokeWidth="1.4" strokeDasharray="5 3" />
            {points.map((p) => (
              <circle key={p[0]} cx={x(p[0] ?? 0)} cy={y(p[2] ?? 0)} r="2" fill="var(--ink-soft)" />
            ))}
            <text x={W - 6} y={H - 8} textAnchor="end" {...text}>
              raw pressure
            </text>
          </svg>
          <div className="tight">
            <b>{`${found.data.says.charAt(0).toUpperCase()}${found.data.says.slice(1)}.`}</b>{' '}
            <span className="soft">Line: by the exercises. Broken: by free drawing. Greatest difference {found.data.worst.toFixed(2)} of effort.</span>
          </div>
        </>
      )}
    </div>
  );
}
