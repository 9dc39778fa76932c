// The drawings that have a finding at the same place, chosen together: to be returned or marked with one act.
import { useState } from 'react';
import { api, take } from '../api/client';
import { useOpen } from '../session';

type Props = { drawing: string; finding: number; onChoose: (drawings: string[]) => void };

export function SameElsewhere({ drawing, finding, onChoose }: Props) {
  const { production } = useOpen();
  const [told, setTold] = useState('');
  const choose = async () => {
    setTold('Looking…');
    try {
      const path = { production: production.id, id: drawing, finding: String(finding) };
      const others = await take(api.GET('/api/v1/productions/{production}/drawings/{id}/alike/{finding}', { params: { path } }));
      setTold(others.length ? '' : 'No other drawing has it here.');
      if (others.length) onChoose([drawing, ...others.map((o) => o.drawing)]);
    } catch (e) {
      setTold(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <>
      <button type="button" className="btn-word" title="to return them, or mark them, together" onClick={() => void choose()}>
        Choose all drawings with it here
      </button>{' '}
      <span role="status" className="soft tight">
        {told}
      </span>
    </>
  );
}
