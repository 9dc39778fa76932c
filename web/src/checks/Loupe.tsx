// The loupe: the drawing under the pointer, its pixels large, with the line's normal, its width there and the ink across it.
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { normalAt, type Place } from '../parts/picture';

const SIDE = 26;
const STANDS: Record<string, string> = {
  t: 'thinner than the guide',
  h: 'heavier than the guide',
  w: 'within',
  '-': 'not measured: an end, a junction or a corner',
};

export function Loupe({
  drawing,
  production,
  image,
  at,
  role,
}: {
  drawing: Schemas['DrawingView'];
  production: string;
  image: string;
  at: Place;
  role: Schemas['Role'] | undefined;
}) {
  const normal = normalAt(drawing.lines, at);
  const [asked, setAsked] = useState<{ x: number; y: number; normal: number } | null>(null);
  // The ink across is read once the pointer rests.
  useEffect(() => {
    const timer = setTimeout(() => setAsked({ x: at.x, y: at.y, normal }), 120);
    return () => clearTimeout(timer);
  }, [at.x, at.y, normal]);
  const across = useQuery({
    queryKey: ['across', drawing.id, asked],
    enabled: !!asked,
    staleTime: 60_000,
    queryFn: () =>
      take(
        api.GET('/api/v1/productions/{production}/drawings/{id}/across/{x}/{y}/{normal}', {
          params: { path: { production, id: drawing.id, x: asked?.x ?? 0, y: asked?.y ?? 0, normal: asked?.normal ?? 0 } },
        }),
      ),
  });
  const [w, h] = [drawing.check?.width_px ?? 1, drawing.check?.height_px ?? 1];
  const [nx, ny] = [Math.cos((normal * Math.PI) / 180), Math.sin((normal * Math.PI) / 180)];
  const half = at.width / 2;
  const c = across.data?.coverage ?? [];
  const step = across.data?.step_px ?? 0.25;
  const reach = SIDE / 2;
  const middle = (c.length - 1) / 2;
  const curve = c
    .map((v, i) => [(i - middle) * step, v] as const)
    .filter(([x]) => Math.abs(x) <= reach)
    .map(([x, v], i) => `${i ? 'L' : 'M'}${((x + reach) / SIDE) * 180} ${46 - 40 * v}`)
    .join('');
  return (
    <section className="loupe" aria-label="loupe">
      <svg viewBox={`${at.x - reach} ${at.y - reach} ${SIDE} ${SIDE}`} width="180" height="180" aria-hidden="true">
        <rect x={at.x - reach} y={at.y - reach} width={SIDE} height={SIDE} fill="#fff" />
        <image href={image} width={w} height={h} style={{ imageRendering: 'pixelated' }} />
        <line x1={at.x - nx * reach} y1={at.y - ny * reach} x2={at.x + nx * reach} y2={at.y + ny * reach} stroke="var(--eddy)" strokeWidth="0.16" />
        {[-1, 1].map((s) => (
          <line
            key={s}
            x1={at.x + s * half * nx - ny}
            y1={at.y + s * half * ny + nx}
            x2={at.x + s * half * nx + ny}
            y2={at.y + s * half * ny - nx}
            stroke="var(--eddy)"
            strokeWidth="0.3"
          />
        ))}
      </svg>
      <svg viewBox="0 0 180 52" width="180" height="52" className="axis" aria-hidden="true">
        <rect x={((reach - half) / SIDE) * 180} width={(at.width / SIDE) * 180} y="4" height="42" fill="var(--eddy)" opacity="0.12" />
        <line x1="0" x2="180" y1="46" y2="46" stroke="var(--hairline)" />
        <path d={curve} fill="none" stroke="var(--ink)" strokeWidth="1.3" />
      </svg>
      <div className="tight px-2 pb-1" style={{ lineHeight: 1.25 }}>
        <b className={at.standing === 'h' ? 'heavy' : at.standing === 't' ? 'thin' : ''}>{at.width.toFixed(2)} px</b> {role?.name}
        <div className="soft">
          above: ink across it · {STANDS[at.standing]} · {at.x.toFixed(0)}, {at.y.toFixed(0)}
        </div>
      </div>
    </section>
  );
}
