// A password that is chosen: typed once, of eight characters or more.
import { Form } from 'react-bootstrap';

type Props = { id: string; label: string; className: string; value: string; onChange: (v: string) => void };

export function NewPasswordField({ id, label, className, value, onChange }: Props) {
  return (
    <Form.Group className={className} controlId={id}>
      <Form.Label className="mb-0">{label}, 8 characters or more</Form.Label>
      <Form.Control required type="password" autoComplete="new-password" minLength={8} value={value} onChange={(e) => onChange(e.target.value)} />
    </Form.Group>
  );
}
