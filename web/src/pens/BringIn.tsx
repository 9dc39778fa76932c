// What bringing in a scan and a sheet have in common: the resolution that a file may lack, and a simulated pen in place of one.
import { useQuery } from '@tanstack/react-query';
import { Button, Form } from 'react-bootstrap';
import { api, take } from '../api/client';
import { useOpen } from '../session';

type Resolution = {
  value: string;
  onChange: (dpi: string) => void;
  again: string;
  ready: boolean;
  onAgain: () => void;
  /** Whether it is said to be a photo, and what tells a photo's scale. */
  photo: boolean;
  onPhoto: (photo: boolean) => void;
  scaleBy: string;
};

export function ResolutionField({ value, onChange, again, ready, onAgain, photo, onPhoto, scaleBy }: Resolution) {
  return (
    <div className="card-plain" style={{ flex: '0 1 280px' }}>
      <Form.Label htmlFor="dpi" className="mb-0">
        Resolution, if the file has none
      </Form.Label>
      <div className="d-flex gap-2">
        <Form.Control id="dpi" size="sm" inputMode="numeric" value={value} placeholder="dpi" disabled={photo} onChange={(e) => onChange(e.target.value)} />
        <Button size="sm" variant="paper" className="text-nowrap" disabled={!ready || !(value || photo)} onClick={onAgain}>
          {again}
        </Button>
      </div>
      <Form.Check id="is-photo" className="tight mt-1" label={`a photo: ${scaleBy}`} checked={photo} onChange={(e) => onPhoto(e.target.checked)} />
    </div>
  );
}

export function SimulatedPen({ label, busy, onPick }: { label: string; busy: boolean; onPick: (id: string, name: string) => void }) {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const standIns = useQuery({ queryKey: ['stand-ins', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/stand-ins', { params })) });
  return (
    <div className="card-plain" style={{ flex: '0 1 220px' }}>
      <Form.Label htmlFor="simulated-pen" className="mb-0">
        {label}
      </Form.Label>
      <Form.Select
        id="simulated-pen"
        size="sm"
        value=""
        disabled={busy}
        onChange={(e) => {
          const p = standIns.data?.pens.find((x) => x.id === e.target.value);
          if (p) onPick(p.id, p.name);
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
  );
}
