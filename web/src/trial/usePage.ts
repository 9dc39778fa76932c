// A trial page being worked on: its strokes with steps back and forth, kept on the server a moment after the last change.
import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { useLasting } from '../parts/lasting';
import { left, useLeaving } from '../parts/leaving';
import { otherSide } from '../parts/stale';
import { back, done, forth, NO_STEPS, type Steps, type Stroke, signOf } from './steps';

type Page = Schemas['TrialPage'];
type Left = { page: Page; revision: number };

export function usePage(production: string, id: string) {
  const at = { path: { production, id } };
  const view = useQuery({
    queryKey: ['trial', id],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => take(api.GET('/api/v1/productions/{production}/trials/{id}', { params: at })),
  });
  const [page, setPage] = useState<Page | null>(null);
  const [steps, setSteps] = useLasting<Steps>(`trial-${id}`, NO_STEPS);
  const [error, setError] = useState<unknown>(null);
  const [saving, setSaving] = useState(false);
  const [theirs, setTheirs] = useState<Schemas['TrialView'] | null>(null);
  const revision = useRef(0);
  // The page as the server has it: told apart by being another object.
  const kept = useRef<Page | null>(null);

  useEffect(() => {
    if (!view.data || page) return;
    const last = left<Left>(`trial-${id}`);
    revision.current = last?.revision ?? view.data.revision;
    kept.current = last ? null : view.data.page;
    setPage(last?.page ?? view.data.page);
  }, [view.data, page, id]);

  const waits = !!page && page !== kept.current && !saving && !theirs;
  const put = useCallback(
    (what: Page) => {
      setSaving(true);
      take(
        api.PUT('/api/v1/productions/{production}/trials/{id}', {
          params: { path: { production, id } },
          body: { page: what, from_revision: revision.current },
        }),
      )
        .then((s) => {
          revision.current = s.revision;
          kept.current = what;
          setError(null);
        })
        .catch((e) => {
          const other = otherSide<Schemas['TrialView']>(e);
          if (other) setTheirs(other);
          else setError(e);
        })
        .finally(() => setSaving(false));
    },
    [production, id],
  );
  useEffect(() => {
    if (!waits || !page) return;
    // What the server refused is not sent again until it has changed.
    const timer = setTimeout(() => put(page), error ? 5000 : 700);
    return () => clearTimeout(timer);
  }, [waits, page, put, error]);
  useLeaving<Left>(`trial-${id}`, page && page !== kept.current && !theirs ? { page, revision: revision.current } : null, (l) => put(l.page));

  const strokes = page?.strokes ?? NONE;
  const own = steps.sign === signOf(strokes) ? steps : NO_STEPS;
  const putStrokes = (to: Stroke[]) => {
    if (!page) return;
    setSteps(done(own, page.strokes, to));
    setPage({ ...page, strokes: to });
  };
  const go = (to: ReturnType<typeof back>) => {
    if (!page || !to) return;
    setSteps(to[1]);
    setPage({ ...page, strokes: to[0] });
  };
  return {
    view,
    page,
    strokes,
    putStrokes,
    change: (to: Partial<Omit<Page, 'strokes'>>) => setPage((now) => now && { ...now, ...to }),
    undo: () => go(back(own, strokes)),
    redo: () => go(forth(own, strokes)),
    canUndo: own.past.length > 0,
    canRedo: own.next.length > 0,
    saved: !saving && page === kept.current,
    error,
    setError,
    theirs,
    /** Mine goes over theirs, as the next revision. */
    keepMine: () => {
      revision.current = theirs?.revision ?? revision.current;
      setTheirs(null);
    },
    useTheirs: () => {
      if (!theirs) return;
      setSteps(done(own, strokes, theirs.page.strokes));
      revision.current = theirs.revision;
      kept.current = theirs.page;
      setPage(theirs.page);
      setTheirs(null);
    },
  };
}

const NONE: Stroke[] = [];
