// A drawing by its own address: its delivery is opened at it.
import { useQuery } from '@tanstack/react-query';
import { Navigate, useParams } from 'react-router';
import { api, take } from '../api/client';
import { Loading, Problem } from '../parts/states';
import { useOpen } from '../session';

export function DrawingOf() {
  const { production } = useOpen();
  const { drawing = '' } = useParams();
  const params = { path: { production: production.id, id: drawing } };
  const seen = useQuery({ queryKey: ['drawing', drawing], queryFn: () => take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params })) });
  if (seen.isLoading) return <Loading what="the drawing" />;
  if (!seen.data)
    return (
      <div className="page">
        <Problem error={seen.error} />
      </div>
    );
  return <Navigate replace to={`/checks/${seen.data.delivery}?drawing=${drawing}`} />;
}
