// A brush being worked on: history, draft kept on the server, versions.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { api, ProblemError, type Schemas, take } from '../api/client';
import { useLasting } from '../parts/lasting';
import { left, useLeaving } from '../parts/leaving';
import { takeBrush } from '../parts/lists';
import { otherSide } from '../parts/stale';

type Brush = Schemas['Brush'];
type Left = { brush: Brush; from: number };
type Steps = { past: Brush[]; next: Brush[] };
const NO_STEPS: Steps = { past: [], next: [] };
const MOST_STEPS = 100;

export function useBrush(production: string, id: string) {
  const client = useQueryClient();
  const params = { path: { production, id } };
  const view = useQuery({ queryKey: ['brush', id], queryFn: () => takeBrush(production, id) });
  // Steps back and forth outlive a reload, as the draft itself does.
  const [steps, setSteps] = useLasting<Steps>(`brush-${id}`, NO_STEPS);
  const { past, next } = steps;
  const [brush, setBrush] = useState<Brush | null>(null);
  const [error, setError] = useState<unknown>(null);
  // Fields of the draft that cannot be saved, each with the reason; and of which draft they are.
  const [refused, setRefused] = useState<{ of: string; fields: Record<string, string> }>({ of: '', fields: {} });
  const base = useRef<Brush | null>(null);
  // What is being kept as a draft: a save waits for it, or it would come to stand on top of what was saved.
  const putting = useRef<Promise<unknown>>(Promise.resolve());
  const saving = useRef(false);
  // The version that the work on the page began from; another one may be current by now.
  const [from, setFrom] = useState<number | null>(null);
  const [theirs, setTheirs] = useState<Schemas['BrushVersion'] | null>(null);
  const began = from ?? view.data?.current_version;
  const saved = view.data?.versions.find((v) => v.version === began)?.brush ?? null;
  const unsaved = !!brush && !!saved && JSON.stringify(brush) !== JSON.stringify(saved);

  // What comes from the server is shown once; then the work on the page leads.
  useEffect(() => {
    if (brush || !view.data) return;
    const last = left<Left>(`brush-${id}`);
    if (last) {
      setFrom(last.from);
      setBrush(last.brush);
      return;
    }
    const of = view.data.draft_from_version ?? view.data.current_version;
    setFrom(of);
    setBrush(view.data.draft ?? view.data.versions.find((v) => v.version === of)?.brush ?? null);
  }, [view.data, brush, id]);

  // Somebody saved while there was unsaved work: both are shown. Without any, theirs is simply what is there.
  useEffect(() => {
    if (!view.data || !brush || from === null || from === view.data.current_version) return;
    const now = view.data.versions.find((v) => v.version === view.data.current_version);
    if (!now) return;
    if (unsaved && JSON.stringify(brush) !== JSON.stringify(now.brush)) setTheirs(now);
    else {
      setFrom(now.version);
      setBrush(now.brush);
    }
  }, [view.data, brush, from, unsaved]);

  // Unsaved work is kept on the server a moment after the last change.
  const draft = unsaved ? brush : null;
  const text = JSON.stringify(draft);
  const waits = !!brush && !!view.data && text !== JSON.stringify(view.data.draft ?? null) && text !== refused.of;
  const put = () => {
    if (saving.current || !view.data) return;
    const { current_version, draft: kept } = view.data;
    const good = kept ?? saved;
    const send = async (tried: Brush | null, fields: Record<string, string>): Promise<void> => {
      try {
        await take(api.PUT('/api/v1/productions/{production}/brushes/{id}/draft', { params, body: { brush: tried, from_version: from ?? current_version } }));
        setRefused({ of: text, fields });
        client.setQueryData(['brush', id], (old: Schemas['BrushView'] | undefined) =>
          old ? { ...old, draft: tried, draft_from_version: tried && from } : old,
        );
      } catch (e) {
        const field = e instanceof ProblemError ? e.field : undefined;
        if (!field || !tried || !good || field in fields) return setError(e);
        // What is wrong stays as it was; everything else of the draft is saved.
        return send({ ...tried, [field]: good[field as keyof Brush] }, { ...fields, [field]: (e as Error).message });
      }
    };
    putting.current = send(draft, {});
  };
  useEffect(() => {
    if (!waits) return;
    const timer = setTimeout(put, 500);
    return () => clearTimeout(timer);
  });
  useLeaving<Left>(`brush-${id}`, waits && brush ? { brush, from: from ?? 1 } : null, put);

  /** Changes the brush; a drag is one step of the history, written when it is done. */
  const change = (to: Brush, done = true) => {
    if (!brush) return;
    base.current ??= brush;
    setBrush(to);
    if (!done) return;
    if (JSON.stringify(base.current) !== JSON.stringify(to)) {
      const from = base.current;
      setSteps((s) => ({ past: [...s.past.slice(1 - MOST_STEPS), from], next: [] }));
    }
    base.current = null;
  };
  const undo = () => {
    const last = past[past.length - 1];
    if (!last || !brush) return;
    setSteps({ past: past.slice(0, -1), next: [brush, ...next] });
    setBrush(last);
  };
  const redo = () => {
    const first = next[0];
    if (!first || !brush) return;
    setSteps({ past: [...past, brush], next: next.slice(1) });
    setBrush(first);
  };
  const run = async (f: () => Promise<unknown>) => {
    setError(null);
    saving.current = true;
    try {
      await putting.current;
      await f();
      await client.invalidateQueries({ queryKey: ['brushes'] });
      const fresh = await client.fetchQuery({
        queryKey: ['brush', id],
        queryFn: () => takeBrush(production, id),
        staleTime: 0,
      });
      setTheirs(null);
      setFrom(fresh.current_version);
      setBrush(fresh.versions.find((v) => v.version === fresh.current_version)?.brush ?? null);
    } catch (e) {
      const other = otherSide<Schemas['BrushVersion']>(e);
      if (other) setTheirs(other);
      else setError(e);
    } finally {
      saving.current = false;
    }
  };
  const saveOver = (version: number, says: string) =>
    brush && run(() => take(api.POST('/api/v1/productions/{production}/brushes/{id}/versions', { params, body: { brush, from_version: version, says } })));
  const save = (says: string) => began !== undefined && saveOver(began, says);
  /** The other's version is taken; one undo brings one's own back. */
  const takeTheirs = () => {
    if (!theirs || !brush) return;
    setSteps((s) => ({ past: [...s.past, brush], next: [] }));
    setFrom(theirs.version);
    setBrush(theirs.brush);
    setTheirs(null);
    void client.invalidateQueries({ queryKey: ['brush', id] });
  };
  const goBack = (version: number) =>
    view.data &&
    run(async () => {
      await take(
        api.POST('/api/v1/productions/{production}/brushes/{id}/current', { params, body: { version, from_version: began ?? view.data.current_version } }),
      );
      // Undo brings back what was there, saved or not.
      if (brush) setSteps((s) => ({ past: [...s.past.slice(1 - MOST_STEPS), brush], next: [] }));
    });
  const clash = theirs && { theirs, mine: () => saveOver(theirs.version, `kept beside version ${theirs.version}`), use: takeTheirs };
  return {
    view,
    brush,
    saved,
    began,
    unsaved,
    refused: refused.fields,
    change,
    undo,
    redo,
    canUndo: past.length > 0,
    canRedo: next.length > 0,
    save,
    goBack,
    clash,
    error,
    setError,
  };
}

/** Parts that are told by their name alone. */
const WORDS = [
  ['smoothing', 'smoothing'],
  ['pace', 'pace'],
  ['driver', 'what drives the width'],
  ['floor_mm', 'least width'],
  ['pooling', 'pooling'],
  ['edge', 'edge'],
  ['stroke', 'stroke kind'],
  ['reversed', 'direction along the stroke'],
  ['opacity', 'opacity'],
  ['chance', 'random width'],
  ['colour', 'colour'],
] as const;

/** What changed between two brushes, in words. */
export function changes(from: Brush | null, to: Brush): string {
  if (!from) return '';
  const out: string[] = [];
  if (JSON.stringify(from.weight) !== JSON.stringify(to.weight)) {
    const k = to.weight.map((w, i) => [w[0] ?? 0, (w[1] ?? 0) - (from.weight[i]?.[1] ?? 0)] as const).sort((a, b) => Math.abs(b[1]) - Math.abs(a[1]))[0];
    out.push(k ? `weight ${k[1] > 0 ? '+' : '−'}${Math.abs(k[1]).toFixed(3)} mm at effort ${k[0]}` : 'weight');
  }
  if (JSON.stringify(from.nib) !== JSON.stringify(to.nib)) out.push('nib');
  if (JSON.stringify(from.lead_in) !== JSON.stringify(to.lead_in)) out.push('lead-in');
  if (JSON.stringify(from.lead_out) !== JSON.stringify(to.lead_out)) out.push('lead-out');
  for (const [key, word] of WORDS) if (JSON.stringify(from[key] ?? null) !== JSON.stringify(to[key] ?? null)) out.push(word);
  if (from.name !== to.name) out.push('name');
  return out.join(', ') || 'saved';
}
