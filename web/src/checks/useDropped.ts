// Files that are dropped on a delivery: sent a few at a time, and what became of each.
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { isTable, tableText } from '../parts/table';

type Taken = Schemas['FileTaken'][];
type Options = {
  url: string;
  id: string;
  /** Drawings are there: a click does not choose files. */
  filled: boolean;
  disabled: boolean;
  onError: (e: unknown) => void;
};

export function useDropped(production: string, { url, id, filled, disabled, onError }: Options) {
  const client = useQueryClient();
  const [came, setCame] = useState<Taken | null>(null);
  const [table, setTable] = useState<string | null>(null);
  const zone = useDropzone({
    noClick: filled,
    noKeyboard: filled,
    disabled,
    onDrop: async (files) => {
      onError(null);
      setTable(null);
      const taken: Taken = [];
      try {
        // What the table says of the files counts as they come.
        const [csv] = files.filter(isTable);
        if (csv) {
          const params = { path: { production, id } };
          const now = await take(api.GET('/api/v1/productions/{production}/deliveries/{id}', { params }));
          const body = { from_version: now.manifest_version, pattern: now.pattern, csv: await tableText(csv), add: true, rows: {} };
          await take(api.PUT('/api/v1/productions/{production}/deliveries/{id}/manifest', { params, body }));
          setTable(csv.name);
        }
        const drawings = files.filter((f) => !isTable(f));
        for (let i = 0; i < drawings.length; i += 6) {
          taken.push(...(await sendFiles<Taken>(`${url}/drawings`, drawings.slice(i, i + 6))));
          setCame([...taken]);
        }
      } catch (e) {
        onError(e);
      }
      await Promise.all([client.invalidateQueries({ queryKey: ['delivery', id] }), client.invalidateQueries({ queryKey: ['drawing'] })]);
    },
  });
  const dismiss = () => {
    setCame(null);
    setTable(null);
  };
  return { zone, came, table, dismiss };
}
