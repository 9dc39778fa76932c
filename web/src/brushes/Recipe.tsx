// The recipe: a brush of another program made to draw like the pen. It serves at once, is surer once that brush has inked a sheet, and is
// verified by inking the sheet again.

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { api, take } from '../api/client';
import { PenChange } from '../lanes/PenChange';
import { takeBrush, usePens } from '../parts/lists';
import { Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { Row } from './Card';

export function Recipe() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const at = { production: production.id, id };
  const view = useQuery({ queryKey: ['brush', id], queryFn: () => takeBrush(production.id, id) });
  const pens = usePens();
  const [other, setOther] = useState('');
  const [again, setAgain] = useState('');
  const recipe = useQuery({
    queryKey: ['recipe', id, other],
    retry: false,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes/{id}/recipe', { params: { path: at, query: { other: other || undefined } } })),
  });
  if (view.isLoading || pens.isLoading) return <Loading what="the brush" />;
  const b = view.data;
  const cards = (pens.data ?? []).filter((p) => p.id !== b?.pen?.id);
  const r = recipe.data?.recipe;
  const choose = (value: string, set: (v: string) => void, label: string) => (
    <select className="form-select form-select-sm w-auto d-inline-block" aria-label={label} value={value} onChange={(e) => set(e.target.value)}>
      <option value="">none yet</option>
      {cards.map((p) => (
        <option key={p.id} value={p.id}>
          {p.name}
        </option>
      ))}
    </select>
  );
  const file = (kind: 'pdf' | 'zip') => `/api/v1/productions/${production.id}/brushes/${id}/recipe/${kind}${other ? `?other=${other}` : ''}`;
  const [W, H] = [260, 200];
  const x = (v: number) => 34 + v * (W - 44);
  const y = (v: number) => H - 26 - v * (H - 36);
  return (
    <div className="page">
      <Head
        title={b?.pen ? `${b.pen.name}, drawn by a brush of another program` : 'A recipe for another program'}
        says="numbers and a tip to be set up there; the sheet inked with it shows how close it comes"
      >
        {r && (
          <>
            <a className="btn btn-paper" href={file('pdf')}>
              Download PDF
            </a>
            <a className="btn btn-paper" href={file('zip')}>
              Download ZIP with tip and strip
            </a>
          </>
        )}
        <Link className="btn btn-paper" to={`/brushes/${id}`}>
          Back to the bench
        </Link>
      </Head>
      <Problem error={view.error ?? pens.error ?? recipe.error} />
      {r && recipe.data && (
        <>
          <div className="d-flex gap-2 mb-2 flex-wrap">
            <div className="card-plain" style={{ flex: '1 1 320px' }}>
              <h2>Correction of the pressure</h2>
              <div className="d-flex gap-3">
                <svg viewBox={`0 0 ${W} ${H}`} width={W} role="img" aria-label="correction: pressure from the tablet across, pressure for the brush upward">
                  <path d={`M${x(0)} ${y(0)}L${x(1)} ${y(1)}`} stroke="var(--hairline)" />
                  <path d={`M${x(0)} ${y(1)}V${y(0)}H${x(1)}`} fill="none" stroke="var(--ink-faint)" />
                  <path d={`M${r.correction.map((p) => `${x(p[0] ?? 0)} ${y(p[1] ?? 0)}`).join('L')}`} fill="none" stroke="var(--ink)" strokeWidth="2" />
                  {r.correction.map((p, i) => (
                    <circle key={i} cx={x(p[0] ?? 0)} cy={y(p[1] ?? 0)} r="5" fill="var(--paper)" stroke="var(--eddy)" strokeWidth="2" />
                  ))}
                  <text x={W - 10} y={H - 8} textAnchor="end" fontSize="12" fill="var(--ink-soft)">
                    pressure from the tablet
                  </text>
                  <text x={40} y={14} fontSize="12" fill="var(--ink-soft)">
                    pressure for the brush
                  </text>
                </svg>
                <table className="tight">
                  <thead>
                    <tr className="soft">
                      <th className="pe-3">pressure</th>
                      <th className="pe-3">becomes</th>
                      <th>width</th>
                    </tr>
                  </thead>
                  <tbody>
                    {r.correction.map((p, i) => (
                      <tr key={i}>
                        <td>{(100 * (p[0] ?? 0)).toFixed(1)} %</td>
                        <td>
                          <b>{(100 * (p[1] ?? 0)).toFixed(1)} %</b>
                        </td>
                        <td>
                          {(r.widths_mm[i] ?? 0).toFixed(3)} {r.sure_mm[i] != null && <span className="soft">± {r.sure_mm[i].toFixed(3)} </span>}mm
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
              <p className="soft tight mb-0">Between the points, joined straight, at most {(1000 * r.left_mm).toFixed(0)} µm are left.</p>
            </div>
            <div className="card-plain" style={{ flex: '1 1 260px' }}>
              <h2>Tip</h2>
              <div className="d-flex gap-3">
                <a href={recipe.data.tip_png} download="tip.png" title="Download tip (PNG)">
                  <img src={recipe.data.tip_png} alt="the tip" width="96" height="96" style={{ border: '1px solid var(--hairline)' }} />
                </a>
                <div style={{ flex: 1 }}>
                  <Row name="size">{r.size_mm.toFixed(2)} mm</Row>
                  {!r.assumed && <Row name="size, against the sheet’s">{r.size_factor.toFixed(2)} ×</Row>}
                  <Row name="least size">{(100 * r.least_size).toFixed(0)} %</Row>
                  <Row name="roundness">{(100 * r.roundness).toFixed(0)} %</Row>
                  <Row name="angle">{r.angle_deg.toFixed(0)}°</Row>
                  <Row name="spacing">{(100 * r.spacing).toFixed(0)} %</Row>
                </div>
              </div>
              {r.says.map((s, i) => (
                <p key={s} className="tight mb-0 mt-1" style={i === 0 && r.assumed ? { color: 'var(--warn)' } : undefined}>
                  {s}
                </p>
              ))}
            </div>
          </div>
          <div className="card-plain mb-2">
            <h2>{r.assumed ? 'To be surer' : 'Worked out from a sheet inked with that brush'}</h2>
            <ol className="tight mb-0">
              <li>
                Download a blank sheet (<a href={`/api/v1/productions/${production.id}/sampler-sheet/a4/png`}>PNG</a>,{' '}
                <a href={`/api/v1/productions/${production.id}/sampler-sheet/a4/ora`}>OpenRaster</a>) into that program, and ink its cells with the brush there.
                Let its size follow the pressure, and note the size.
              </li>
              <li>
                <Link to="/pens/sheet">Import sheet</Link> and save it as a pen card under that brush’s name.
              </li>
              <li>Choose the card: {choose(other, setOther, 'card of the other brush')}</li>
            </ol>
          </div>
          <div className="card-plain">
            <h2>How close it comes</h2>
            <p className="tight mb-1">
              Ink a fresh sheet with the brush as set up, import it, and choose it: {choose(again, setAgain, 'card inked with the recipe')}
            </p>
            {again && b?.pen && <PenChange from={b.pen.id} to={again} names={[b.pen.name, pens.data?.find((p) => p.id === again)?.name ?? '']} />}
          </div>
        </>
      )}
    </div>
  );
}
