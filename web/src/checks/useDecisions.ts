// What is decided on a delivery's drawings, one by one or many at once, and undone step by step.
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { useOpen } from '../session';

type Summary = Schemas['DrawingSummary'];
export type State = 'ready' | 'return' | 'open';
export type Fix = Schemas['Fix'][] | null;
/** What was done, and how it is undone: false where it could not be. */
type Done = { says: string; undo: () => Promise<boolean> };

/** What was decided is shown at once; all of a delivery is asked for again when nothing was decided for so long, ms. */
const SETTLES = 700;

/** How a drawing stands that nobody has decided on. */
function undecided({ summary, message, standing }: Summary): Summary['standing'] {
  if (!summary) return message ? 'failed' : standing;
  const suggested = { ready: 'may-go-on', return: 'goes-back', 'not-checked': 'not-checked' } as const;
  return summary.hand_on ? suggested[summary.hand_on] : 'open';
}

export function useDecisions(production: string, id: string, drawings: Summary[]) {
  const client = useQueryClient();
  const { session } = useOpen();
  const settling = useRef(0);
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
  /** Shows a decision in what was fetched before. */
  const show = useCallback(
    (of: Summary[], state: State, note: string, numbers: number[]) => {
      const number = new Map(of.map((d, i) => [d.id, numbers[i] ?? 0]));
      const by = session.member?.name ?? '';
      const to = (d: Summary): Summary => {
        const own = number.get(d.id);
        if (own === undefined) return d;
        const standing = state === 'ready' ? 'handed-on' : state === 'return' ? 'returned' : undecided(d);
        return { ...d, standing, decision: { number: own, state, by, note } };
      };
      client.setQueryData<Schemas['DeliveryView']>(['delivery', id], (view) => view && { ...view, drawings: view.drawings.map(to) });
      for (const d of of) void client.invalidateQueries({ queryKey: ['drawing', d.id] });
      window.clearTimeout(settling.current);
      settling.current = window.setTimeout(() => {
        void client.invalidateQueries({ queryKey: ['delivery', id] });
        void client.invalidateQueries({ queryKey: ['deliveries'] });
      }, SETTLES);
    },
    [client, id, session],
  );
  /** Says what was done, with its undo. */
  const say = useCallback((says: string, undo: () => Promise<boolean>) => {
    setDone((all) => [...all, { says, undo }]);
    setTold(true);
  }, []);
  const put = useCallback(
    async (of: Summary[], state: State, note: string, strokes: [number, number][][], fix: Fix) => {
      setError(null);
      // A refetch that began before would show what was.
      window.clearTimeout(settling.current);
      await client.cancelQueries({ queryKey: ['delivery', id] });
      try {
        const numbers = await take(
          api.POST('/api/v1/productions/{production}/deliveries/{id}/decisions', {
            params: { path: { production, id } },
            body: { drawings: of.map((d) => ({ id: d.id, seen: d.decision?.number ?? 0 })), state, note, strokes, fix },
          }),
        );
        show(of, state, note, numbers);
        return true;
      } catch (e) {
        setError(e);
        await Promise.all([client.invalidateQueries({ queryKey: ['delivery', id] }), client.invalidateQueries({ queryKey: ['drawing'] })]);
        return false;
      }
    },
    [client, show, production, id],
  );
  /** Drawings as they stand by now, whatever is on the screen yet. */
  const latest = useCallback(
    (of: Summary[]) => {
      const known = new Map(client.getQueryData<Schemas['DeliveryView']>(['delivery', id])?.drawings.map((d) => [d.id, d]));
      return of.map((d) => known.get(d.id) ?? d);
    },
    [client, id],
  );
  const decide = useCallback(
    async (asked: Summary[], state: State, note = '', strokes: [number, number][][] = [], fix: Fix = null) => {
      // A second click while the first is on its way decides nothing.
      if (deciding.current) return false;
      const of = latest(asked).filter((d) => state !== 'ready' || d.decision?.state !== 'ready');
      if (!of.length) return false;
      deciding.current = true;
      const fine = await put(of, state, note, strokes, fix);
      deciding.current = false;
      const words = { ready: 'marked as ready', return: 'returned', open: 'undecided again' };
      const before = of.map((d) => ({ id: d.id, state: d.decision?.state ?? 'open', number: d.decision?.number }));
      /** Each drawing is again what it was before. */
      const undo = async () => {
        const drawn = new Map(latest(now.current).map((d) => [d.id, d]));
        const those = (was: State) => before.filter((b) => b.state === was && drawn.has(b.id));
        for (const was of ['open', 'ready'] as const) {
          const some = those(was).flatMap((b) => drawn.get(b.id) ?? []);
          if (some.length && !(await put(some, was, '', [], null))) return false;
        }
        // What was returned has its note again, what was drawn with it, and what had to be fixed.
        for (const b of those('return')) {
          const path = { production, id: b.id };
          const view = await take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params: { path } })).catch(setError);
          const was = view?.decisions.find((d) => d.number === b.number);
          const d = drawn.get(b.id);
          if (!was || !d || !(await put([d], 'return', was.note, was.strokes as [number, number][][], was.fix ?? null))) return false;
        }
        return true;
      };
      if (fine) say(`${of.length === 1 ? '1 drawing' : `${of.length} drawings`} ${words[state]}`, undo);
      return fine;
    },
    [put, say, latest, production],
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
