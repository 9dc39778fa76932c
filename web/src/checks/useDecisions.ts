// What is decided on a delivery's drawings, one by one or many at once, and undone step by step.
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';

type Summary = Schemas['DrawingSummary'];
export type State = 'ready' | 'return' | 'open';
export type Fix = Schemas['Fix'][] | null;
/** What was done, and how it is undone: false where it could not be. */
type Done = { says: string; undo: () => Promise<boolean> };

export function useDecisions(production: string, id: string, drawings: Summary[]) {
  const client = useQueryClient();
  const deciding = useRef(false);
  const [error, setError] = useState<unknown>(null);
  // What was done since the page was opened, the last one last: each can be undone.
  const [done, setDone] = useState<Done[]>([]);
  const [told, setTold] = useState(false);
  const now = useRef(drawings);
  now.current = drawings;
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
  /** Says what was done, with its undo. */
  const say = useCallback((says: string, undo: () => Promise<boolean>) => {
    setDone((all) => [...all, { says, undo }]);
    setTold(true);
  }, []);
  const put = useCallback(
    (of: Summary[], state: State, note: string, strokes: [number, number][][], fix: Fix) =>
      act(() =>
        take(
          api.POST('/api/v1/productions/{production}/deliveries/{id}/decisions', {
            params: { path: { production, id } },
            body: { drawings: of.map((d) => ({ id: d.id, seen: d.decision?.number ?? 0 })), state, note, strokes, fix },
          }),
        ),
      ),
    [act, production, id],
  );
  const decide = useCallback(
    async (of: Summary[], state: State, note = '', strokes: [number, number][][] = [], fix: Fix = null) => {
      // A second click while the first is on its way decides nothing.
      if (deciding.current) return false;
      deciding.current = true;
      const fine = await put(of, state, note, strokes, fix);
      deciding.current = false;
      const words = { ready: 'marked as ready', return: 'returned', open: 'undecided again' };
      const before = of.map((d) => ({ id: d.id, state: d.decision?.state ?? 'open', note: d.decision?.note ?? '' }));
      /** Each drawing is again what it was before. */
      const undo = async () => {
        for (const was of ['open', 'ready', 'return'] as const) {
          const groups = new Map<string, Summary[]>();
          for (const b of before) {
            const d = now.current.find((x) => x.id === b.id);
            if (d && b.state === was) groups.set(b.note, [...(groups.get(b.note) ?? []), d]);
          }
          for (const [text, some] of groups) if (!(await put(some, was, text, [], null))) return false;
        }
        return true;
      };
      if (fine) say(`${of.length === 1 ? '1 drawing' : `${of.length} drawings`} ${words[state]}`, undo);
      return fine;
    },
    [put, say],
  );
  /** Drawings that are removed, or no drawings; without a reason they are restored. */
  const setAside = useCallback(
    async (ids: string[], why: Schemas['WhyAside'] | null, says: string) => {
      const send = (to: Schemas['WhyAside'] | null) =>
        act(() =>
          take(api.POST('/api/v1/productions/{production}/deliveries/{id}/aside', { params: { path: { production, id } }, body: { drawings: ids, why: to } })),
        );
      const fine = await send(why);
      if (fine) say(says, () => send(why ? null : 'removed'));
      return fine;
    },
    [act, say, production, id],
  );

  const last = done[done.length - 1];
  const undo = async () => {
    if (!last || !(await last.undo())) return;
    setDone(done.slice(0, -1));
    setTold(false);
  };
  return { act, decide, setAside, say, undo, last, told: told && last ? last.says : null, dismiss: () => setTold(false), error, setError };
}
