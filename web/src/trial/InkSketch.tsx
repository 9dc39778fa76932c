// A trial page small: its strokes as thin lines, enough to tell two of them apart.
import type { Schemas } from '../api/client';

export function InkSketch({ page }: { page: Schemas['TrialPage'] }) {
  const [w, h] = [page.width_px / page.px_per_mm, page.height_px / page.px_per_mm];
  const line = (s: Schemas['TrialStroke']) => {
    const points: string[] = [];
    for (let i = 0; i + 2 < s.samples.length; i += 6)
      if (s.samples[i + 1] != null && s.samples[i + 2] != null) points.push(`${s.samples[i + 1]},${s.samples[i + 2]}`);
    return points.join(' ');
  };
  const n = page.strokes.length;
  return (
    <figure className="mb-0">
      <svg viewBox={`0 0 ${w} ${h}`} style={{ width: 220, maxHeight: 160, background: 'var(--paper)', border: '1px solid var(--hairline)' }} aria-hidden>
        {page.strokes.map((s, i) => (
          <polyline key={i} points={line(s)} fill="none" stroke={s.colour} strokeWidth={w / 220} />
        ))}
      </svg>
      <figcaption className="soft tight">{n === 1 ? '1 stroke' : `${n} strokes`}</figcaption>
    </figure>
  );
}
