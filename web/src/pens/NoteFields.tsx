// The note of a pen: paper, ink, wear and use, in the artist's own words.
import { Form } from 'react-bootstrap';

export type Note = { paper: string; ink: string; wear: string; use: string };
export const NOTE_KEYS = ['paper', 'ink', 'wear', 'use'] as const;

export function NoteFields({ note, onChange }: { note: Note; onChange: (note: Note) => void }) {
  return NOTE_KEYS.map((k) => (
    <Form.Group key={k} controlId={`note-${k}`} style={{ flex: '0 1 130px' }}>
      <Form.Label className="mb-0">{k.charAt(0).toUpperCase() + k.slice(1)}</Form.Label>
      <Form.Control size="sm" value={note[k]} onChange={(e) => onChange({ ...note, [k]: e.target.value })} />
    </Form.Group>
  ));
}
