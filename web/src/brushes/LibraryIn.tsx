// A library brought in: what it holds, which names are taken, and what becomes of each is decided before anything is kept.
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

type Choice = Schemas['ClashChoice'];
const CHOICES: [Choice, string][] = [
  ['version', 'becomes its next version'],
  ['rename', 'imported under another name'],
  ['leave', 'not imported'],
];

export function LibraryIn() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const [text, setText] = useState('');
  const [clashes, setClashes] = useState<Record<string, Choice>>({});
  const [withRoll, setWithRoll] = useState(false);
  const read = useMutation({
    mutationFn: async (file: File) => {
      const library = await file.text();
      const found = await take(api.POST('/api/v1/productions/{production}/library/read', { params, body: { library } }));
      setText(library);
      setClashes({});
      setWithRoll(production.part === 'lead' && found.roll.length > 0);
      return found;
    },
  });
  const bring = useMutation({
    mutationFn: () => take(api.POST('/api/v1/productions/{production}/library', { params, body: { library: text, clashes, with_roll: withRoll } })),
    onSuccess: async () => {
      read.reset();
      await client.invalidateQueries({ queryKey: ['brushes'] });
      await client.invalidateQueries({ queryKey: ['roll'] });
    },
  });
  const found = read.data;
  const open = (found?.brushes ?? []).filter((b) => b.clash && !b.clash.same);
  const undecided = open.filter((b) => !clashes[b.brush.name]);
  return (
    <>
      <label className="btn-word" style={{ cursor: 'pointer' }}>
        Import library…
        <input
          type="file"
          accept=".json,application/json"
          className="visually-hidden"
          aria-label="import library"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = '';
            bring.reset();
            if (file) read.mutate(file);
          }}
        />
      </label>
      <Problem error={read.error ?? bring.error} />
      {bring.data && (
        <span className="tight ms-3" role="status">
          {bring.data.made} made, {bring.data.versions} new versions, {bring.data.left} unchanged
          {bring.data.roll ? `, ${bring.data.roll} roles on the roll` : ''}.
        </span>
      )}
      {found && (
        <div className="card-plain my-2">
          <h2>
            {found.brushes.length} {found.brushes.length === 1 ? 'brush' : 'brushes'} in the library
          </h2>
          <ul className="tight list-unstyled mb-2">
            {found.brushes.map((b) => (
              <li key={b.brush.name} className="d-flex gap-3 align-items-center">
                <b>{b.brush.name}</b>
                {!b.clash && <span className="soft">new</span>}
                {b.clash?.same && <span className="soft">is on the rack already, the same: unchanged</span>}
                {b.clash && !b.clash.same && (
                  <>
                    <span style={{ color: 'var(--warn)' }}>the name is taken by another brush:</span>
                    <select
                      className="form-select form-select-sm tight w-auto"
                      aria-label={`what becomes of ${b.brush.name}`}
                      value={clashes[b.brush.name] ?? ''}
                      onChange={(e) => setClashes({ ...clashes, [b.brush.name]: e.target.value as Choice })}
                    >
                      <option value="">decide…</option>
                      {CHOICES.map(([v, word]) => (
                        <option key={v} value={v}>
                          {word}
                        </option>
                      ))}
                    </select>
                  </>
                )}
              </li>
            ))}
          </ul>
          {found.roll.length > 0 && (
            <label className="tight d-block mb-2">
              <input type="checkbox" checked={withRoll} disabled={production.part !== 'lead'} onChange={(e) => setWithRoll(e.target.checked)} /> its pen roll of{' '}
              {found.roll.length} roles replaces this production’s{production.part !== 'lead' && ' (the lead’s to decide)'}
            </label>
          )}
          <div className="d-flex gap-2">
            <Button size="sm" variant="paper" disabled={undecided.length > 0 || bring.isPending} onClick={() => bring.mutate()}>
              {undecided.length ? `Decide ${undecided.length} more` : 'Import brushes'}
            </Button>
            <button type="button" className="btn-word" onClick={() => read.reset()}>
              Cancel
            </button>
          </div>
        </div>
      )}
    </>
  );
}
