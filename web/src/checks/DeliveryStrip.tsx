// A delivery in small: three of its drawings, and a strip of marks, one a drawing, as its lanes have them.
import { useQuery } from '@tanstack/react-query';
import { api, type Schemas, take } from '../api/client';
import { STANDING, smallUrl } from '../parts/picture';
import { useOpen } from '../session';

type Mark = Schemas['StripMark'];
const [W, H] = [5, 18];

/** Heavy stands above the middle, thin below it, as in the lanes. */
function bar({ standing, off }: Mark) {
  if (standing === 'waiting') return { fill: 'var(--hairline)', y: 7, h: 4 };
  if (standing === 'failed') return { fill: 'var(--stop)', y: 7, h: 4 };
  if (off === 'heavy') return { fill: 'var(--heavy)', y: 1, h: 10 };
  if (off === 'thin') return { fill: 'var(--thin)', y: 7, h: 10 };
  if (off) return { fill: 'var(--ink-faint)', y: 3, h: 12 };
  return { fill: 'var(--ink)', y: 7, h: 4 };
}

export function DeliveryStrip({ id, of }: { id: string; of: number }) {
  const { production } = useOpen();
  const path = { production: production.id, id };
  const strip = useQuery({
    queryKey: ['deliveries', 'strip', id, of],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/deliveries/{id}/strip', { params: { path } })),
  });
  const { pictures = [], marks = [], in_all = 0 } = strip.data ?? {};
  if (!marks.length) return null;
  return (
    <div className="d-flex gap-2 align-items-center mt-1">
      {pictures.map((sha) => (
        <img
          key={sha}
          src={smallUrl(`/api/v1/productions/${production.id}`, sha)}
          alt=""
          loading="lazy"
          style={{ width: 64, height: 38, objectFit: 'contain', background: '#fff', border: '1px solid var(--hairline)' }}
        />
      ))}
      <svg width={W * marks.length} height={H} role="img" aria-label={`how ${marks.length} of ${in_all} drawings stand`}>
        {marks.map((m, i) => {
          const { fill, y, h } = bar(m);
          return (
            <rect key={i} x={W * i} y={y} width={W - 1} height={h} fill={fill}>
              <title>{`${i + 1}: ${m.off ? `${m.off}, ` : ''}${STANDING[m.standing]}`}</title>
            </rect>
          );
        })}
      </svg>
    </div>
  );
}
