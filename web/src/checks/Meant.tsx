// Why a finding is intended: on this drawing, or on all of the delivery that have it at the same place.
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { focused } from '../parts/focused';
import { useOpen } from '../session';

type Props = {
  drawing: string;
  finding: number;
  onDone: (why: string, alike: Schemas['Alike'][]) => void;
  onCancel: () => void;
};

export function Meant({ drawing, finding, onDone, onCancel }: Props) {
  const { production } = useOpen();
  const [why, setWhy] = useState('');
  const [everywhere, setEverywhere] = useState(false);
  const alike = useQuery({
    queryKey: ['alike', drawing, finding],
    queryFn: () =>
      take(
        api.GET('/api/v1/productions/{production}/drawings/{id}/alike/{finding}', {
          params: { path: { production: production.id, id: drawing, finding: String(finding) } },
        }),
      ),
  });
  const others = alike.data ?? [];
  return (
    <Form
      className="px-3 pb-2"
      onSubmit={(e) => {
        e.preventDefault();
        onDone(why, everywhere ? others : []);
      }}
    >
      <Form.Control
        size="sm"
        ref={focused}
        value={why}
        placeholder="why it is intended"
        aria-label="why it is intended"
        onChange={(e) => setWhy(e.target.value)}
        onKeyDown={(e) => e.key === 'Escape' && onCancel()}
      />
      {others.length > 0 && (
        <label className="d-flex gap-1 tight mt-1">
          <input type="checkbox" checked={everywhere} onChange={(e) => setEverywhere(e.target.checked)} /> and at the same place on{' '}
          {others.length === 1 ? '1 other drawing' : `${others.length} other drawings`}
        </label>
      )}
      <div className="d-flex gap-2 mt-1">
        <Button size="sm" variant="paper" type="submit" disabled={!why.trim()}>
          Mark as intended
        </Button>
        <button type="button" className="btn-word" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </Form>
  );
}
