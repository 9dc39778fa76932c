// What is decided on a delivery's drawings, one by one or many at once, and undone step by step.
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';

type Summary = Schemas['DrawingSummary'];
/** A decision, and what each drawing was before it. */
type Done = { says: string; back: { id: string; state: string; note: string }[] };

export function useDecisions(production: string, id: string, drawings: Summary[]) {
  const client = useQueryClient();
  const deciding = useRef(false);
  const [error, setError] = useState<unknown>(null);
  // What was decided since the page was opened, the last one last: each can be undone.
  const [done, setDone] = useState<Done[]>([]);
  const [told, setTold] = useState(false);
  const act = useCallback(
    async (what: () => Promise<unknown>) => {
      setError(null);
      try {
        await what();
        return true;
      } catch (e) {
        setError(e);
        return false;
      } finally {
        await Promise.all([
          client.invalidateQueries({ queryKey: ['delivery', id] }),
          client.invalidateQueries({ queryKey: ['drawing'] }),
          client.invalidateQueries({ queryKey: ['deliveries'] }),
        ]);
      }
    },
    [client, id],
  );
  const decide = useCallback(
    async (of: Summary[], state: 'ready' | 'return' | 'open', note = '', strokes: [number, number][][] = [], undoing = false) => {
      // A second click while the first is on its way decides nothing.
      if (deciding.current) return false;
      deciding.current = true;
      const seen = of.map((d) => ({ id: d.id, seen: d.decision?.number ?? 0 }));
      const fine = await act(() =>
        take(
          api.POST('/api/v1/productions/{production}/deliveries/{id}/decisions', {
            params: { path: { production: production, id } },
            body: { drawings: seen, state, note, strokes },
          }),
        ),
      );
      deciding.current = false;
      const words = { ready: 'marked as ready', return: 'returned', open: 'undecided again' };
      const n = of.length === 1 ? '1 drawing' : `${of.length} drawings`;
      if (fine && !undoing) {
        const back = of.map((d) => ({ id: d.id, state: d.decision?.state ?? 'open', note: d.decision?.note ?? '' }));
        setDone((all) => [...all, { says: `${n} ${words[state]}`, back }]);
        setTold(true);
      }
      return fine;
    },
    [act, production, id],
  );

  const last = done[done.length - 1];
  /** Each drawing is again what it was before the last decision. */
  const undo = async () => {
    if (!last) return;
    for (const state of ['open', 'ready', 'return'] as const) {
      const groups = new Map<string, Summary[]>();
      for (const b of last.back) {
        const d = drawings.find((x) => x.id === b.id);
        if (d && b.state === state) groups.set(b.note, [...(groups.get(b.note) ?? []), d]);
      }
      for (const [note, of] of groups) if (!(await decide(of, state, note, [], true))) return;
    }
    setDone(done.slice(0, -1));
    setTold(false);
  };
  return { act, decide, undo, last, told: told && last ? last.says : null, dismiss: () => setTold(false), error, setError };
}
