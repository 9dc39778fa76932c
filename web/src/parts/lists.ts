// The production's lists that more than one place chooses from.
import { useQuery } from '@tanstack/react-query';
import { api, take } from '../api/client';
import { useOpen } from '../session';

export function usePens() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  return useQuery({ queryKey: ['pens', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/pens', { params })) });
}

export function useProfiles() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  return useQuery({ queryKey: ['profiles', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/profiles', { params })) });
}

export function useGuides() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  return useQuery({ queryKey: ['guides', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params })) });
}
