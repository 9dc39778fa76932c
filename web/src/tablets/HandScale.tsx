// A kitchen scale under the stylus: grams typed beside the raw pressure, pressing and letting go; gives force and hysteresis.
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useNavigate } from 'react-router';
import { api, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

type Row = { grams: string; raw: string; letting_go: boolean };
const EMPTY: Row = { grams: '', raw: '', letting_go: false };

export function HandScale({ id }: { id: string }) {
  const { production } = useOpen();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [rows, setRows] = useState<Row[]>(Array.from({ length: 6 }, () => EMPTY));
  const [pressure, setPressure] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const put = (i: number, change: Partial<Row>) => setRows(rows.map((r, k) => (k === i ? { ...r, ...change } : r)));
  const keep = async () => {
    setError(null);
    try {
      const filled = rows.filter((r) => r.grams.trim() && r.raw.trim());
      const readings = filled.map((r) => ({ grams: Number(r.grams), raw: Number(r.raw), letting_go: r.letting_go }));
      if (readings.some((r) => !Number.isFinite(r.grams) || !Number.isFinite(r.raw)))
        throw new Error('Grams and raw pressure are numbers, such as 120 and 0.34.');
      const params = { path: { production: production.id, id } };
      const made = await take(api.POST('/api/v1/productions/{production}/profiles/{id}/hand-scale', { params, body: { readings } }));
      await client.invalidateQueries();
      navigate(`/tablets/${made.id}`);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <div className="card-plain mb-2">
      <h2>Force, by a kitchen scale</h2>
      <p className="soft tight mb-1">
        Lay the tablet on a kitchen scale and set it to zero. Press on the field with the stylus, read the grams, and type them beside the pressure shown; a few
        readings while pressing harder, a few while letting go.
      </p>
      <Problem error={error} />
      <div className="d-flex gap-3 flex-wrap">
        <div
          style={{
            width: 180,
            height: 180,
            border: '1px solid var(--hairline)',
            background: '#fff',
            touchAction: 'none',
            display: 'grid',
            placeItems: 'center',
          }}
          role="img"
          aria-label="field to press on"
          onPointerDown={(e) => setPressure(e.pointerType === 'mouse' ? null : e.pressure)}
          onPointerMove={(e) => e.pointerType !== 'mouse' && e.buttons && setPressure(e.pressure)}
        >
          <span className="tight soft">{pressure == null ? 'press here' : `raw ${pressure.toFixed(3)}`}</span>
        </div>
        <div>
          {rows.map((r, i) => (
            <div key={i} className="d-flex gap-2 align-items-center mb-1 tight">
              <Form.Control
                size="sm"
                aria-label={`grams ${i + 1}`}
                placeholder="grams"
                inputMode="decimal"
                value={r.grams}
                onChange={(e) => put(i, { grams: e.target.value })}
                style={{ width: 80 }}
              />
              <Form.Control
                size="sm"
                aria-label={`raw pressure ${i + 1}`}
                placeholder="raw"
                inputMode="decimal"
                value={r.raw}
                onChange={(e) => put(i, { raw: e.target.value })}
                style={{ width: 80 }}
              />
              <button type="button" className="btn-word" disabled={pressure == null} onClick={() => put(i, { raw: (pressure ?? 0).toFixed(3) })}>
                Use reading
              </button>
              <Form.Check id={`letting-${i}`} label="letting go" checked={r.letting_go} onChange={(e) => put(i, { letting_go: e.target.checked })} />
            </div>
          ))}
          <div className="d-flex gap-2 mt-2">
            <Button size="sm" variant="paper" onClick={() => setRows([...rows, EMPTY])}>
              Add reading
            </Button>
            <Button size="sm" variant="paper" onClick={keep}>
              Save force with the profile
            </Button>
          </div>
        </div>
      </div>
    </div>
  );
}
