// The production's lists that more than one place chooses from.
import { useQuery } from '@tanstack/react-query';
import { api, type Schemas, take, takeAll, takeVersions } from '../api/client';
import { useOpen } from '../session';

const middle = (widths: number[] = []) => [...widths].sort((a, b) => a - b)[widths.length >> 1] ?? 0;
const byWidth = (pens: Schemas['PenSummary'][]) =>
  pens
    .map((pen) => [middle(pen.line?.width_mm), pen] as const)
    .sort((a, b) => a[0] - b[0])
    .map(([, pen]) => pen);

/** The drawer, from the finest line to the heaviest. */
export function usePens() {
  const { production } = useOpen();
  const path = { production: production.id };
  return useQuery({
    queryKey: ['pens', production.id],
    queryFn: () => takeAll((after) => take(api.GET('/api/v1/productions/{production}/pens', { params: { path, query: { after } } }))),
    select: byWidth,
  });
}

export function useProfiles() {
  const { production } = useOpen();
  const path = { production: production.id };
  return useQuery({
    queryKey: ['profiles', production.id],
    queryFn: () => takeAll((after) => take(api.GET('/api/v1/productions/{production}/profiles', { params: { path, query: { after } } }))),
  });
}

export function useRack(production: string) {
  const path = { production };
  return useQuery({
    queryKey: ['brushes', production],
    queryFn: () => takeAll((after) => take(api.GET('/api/v1/productions/{production}/brushes', { params: { path, query: { after } } }))),
  });
}

export function useGuides() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  return useQuery({ queryKey: ['guides', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params })) });
}

/** A brush with all of its versions. */
export async function takeBrush(production: string, id: string): Promise<Schemas['BrushView']> {
  const path = { production, id };
  const view = await take(api.GET('/api/v1/productions/{production}/brushes/{id}', { params: { path } }));
  const older = (before: number | undefined) =>
    take(api.GET('/api/v1/productions/{production}/brushes/{id}/versions', { params: { path, query: { before } } }));
  return view.versions.length < view.versions_in_all ? { ...view, versions: await takeVersions(older) } : view;
}

/** The versions of a line guide, the newest first; none before `id` is known. */
export function useGuideVersions(id: string | undefined, current: number | undefined, enabled = true) {
  const { production } = useOpen();
  const path = { production: production.id, id: id ?? '' };
  return useQuery({
    queryKey: ['guides', id, 'versions', current],
    enabled: enabled && !!id,
    queryFn: () => takeVersions((before) => take(api.GET('/api/v1/productions/{production}/guides/{id}/versions', { params: { path, query: { before } } }))),
  });
}
