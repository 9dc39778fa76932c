// The desk: what waits, each with its next step.
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, take } from '../api/client';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { ReturnedDrawings } from './ReturnedDrawings';

export function Desk() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const desk = useQuery({ queryKey: ['desk', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/desk', { params })) });
  if (desk.isLoading) return <Loading what="your desk" />;
  const items = desk.data ?? [];
  const steps = [
    ['/pens/new', 'Add a pen', 'one ruled line in any scan becomes a brush in a minute'],
    ['/tablets/warm-up', 'Warm up on a tablet', 'five efforts and a ramp show how your hand and tablet answer'],
    ['/brushes', 'Match a brush', 'matched to the pen, through your tablet'],
    ['/guides', 'Set the guide', 'line roles and their weights'],
    ['/checks', 'Check a delivery', 'every line measured, heavy and thin ones pinned'],
    ...(production.team ? [['/team', 'See the team', 'who differs, since when, possible causes'] as const] : []),
  ] as const;
  return (
    <div className="page">
      <Head title={items.length ? (items.length === 1 ? '1 thing waits' : `${items.length} things wait`) : 'Nothing waits'} says={production.name} />
      <Problem error={desk.error} />
      {items.length === 0 ? (
        <Empty title="Your desk is clear">Whatever needs you shows here with its next step.</Empty>
      ) : (
        <div className="lanes">
          {items.map((i) => (
            <div key={i.text} className="px-3 py-2" style={{ borderTop: '1px solid var(--hairline)' }}>
              <div className="d-flex justify-content-between align-items-center">
                <span>{i.text}</span>
                <Link to={i.to} className="btn btn-sm btn-paper">
                  {i.next}
                </Link>
              </div>
              {i.returned && <ReturnedDrawings of={i.returned} />}
            </div>
          ))}
        </div>
      )}
      <h2 className="mt-4 mb-2">The order of work</h2>
      <div style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(200px, 1fr))', gap: 10 }}>
        {steps.map(([to, name, says], i) => (
          <Link key={to} to={to} className="card-plain text-decoration-none">
            <span className="soft tight">{i + 1}</span>
            <div className="fw-semibold">{name}</div>
            <div className="soft tight">{says}</div>
          </Link>
        ))}
      </div>
    </div>
  );
}
