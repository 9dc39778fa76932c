// What is said over every page of an archived production, and how a lead restores it.
import { useMutation } from '@tanstack/react-query';
import { api, take } from '../api/client';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

export function ArchivedNotice() {
  const { production, leads, refresh } = useOpen();
  const restore = useMutation({
    mutationFn: () => take(api.DELETE('/api/v1/productions/{production}/archived', { params: { path: { production: production.id } } })),
    onSettled: refresh,
  });
  if (!production.archived) return null;
  return (
    <div className="page pb-0">
      <div className="notice d-flex gap-3 align-items-center flex-wrap" role="status">
        <span>{production.name} is archived: everything in it can be looked at and downloaded, nothing can be changed.</span>
        {leads ? (
          <button type="button" className="btn btn-sm btn-paper" disabled={restore.isPending} onClick={() => restore.mutate()}>
            Restore production
          </button>
        ) : (
          <span>A lead can restore it.</span>
        )}
      </div>
      <Problem error={restore.error} />
    </div>
  );
}
