// The course of a line pulled on the line itself: efforts at five places stand off it, the harder the further.
import { useRef } from 'react';

type Props = {
  /** The line in mm of the picture. */
  points: number[][];
  /** Efforts at even places along it. */
  efforts: number[];
  /** `[left, top, width, height]` of the picture in mm. */
  box: [number, number, number, number];
  onChange: (efforts: number[], done: boolean) => void;
};

/** Place and direction at a share of the line's length. */
function at(points: number[][], share: number) {
  const ways = points.slice(1).map((p, i) => Math.hypot((p[0] ?? 0) - (points[i]?.[0] ?? 0), (p[1] ?? 0) - (points[i]?.[1] ?? 0)));
  let left = share * ways.reduce((a, b) => a + b, 0);
  let i = 0;
  while (i < ways.length - 1 && left > (ways[i] ?? 0)) left -= ways[i++] ?? 0;
  const [a, b, w] = [points[i] ?? [0, 0], points[i + 1] ?? [1, 0], ways[i] || 1];
  const [dx, dy] = [((b[0] ?? 0) - (a[0] ?? 0)) / w, ((b[1] ?? 0) - (a[1] ?? 0)) / w];
  return { x: (a[0] ?? 0) + dx * Math.min(left, w), y: (a[1] ?? 0) + dy * Math.min(left, w), nx: dy, ny: -dx };
}

export function CourseOnLine({ points, efforts, box, onChange }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [l, t, w, h] = box;
  // Full effort stands a fifteenth of the picture off the line, on the side where more of the picture is.
  const far = Math.max(w, h) / 15;
  const along = efforts.map((_, i) => at(points, i / (efforts.length - 1)));
  const within = (side: 1 | -1) =>
    along.filter((f) => {
      const [x, y] = [f.x + side * f.nx * far, f.y + side * f.ny * far];
      return x > l && x < l + w && y > t && y < t + h;
    }).length;
  const side = within(1) >= within(-1) ? 1 : -1;
  const feet = along.map((f) => ({ ...f, nx: side * f.nx, ny: side * f.ny }));
  const heads = feet.map((f, i) => [f.x + f.nx * far * (efforts[i] ?? 0), f.y + f.ny * far * (efforts[i] ?? 0)] as const);
  const put = (i: number, v: number, done: boolean) =>
    onChange(
      efforts.map((e, k) => (k === i ? Math.round(Math.min(1, Math.max(0, v)) * 100) / 100 : e)),
      done,
    );
  const pull = (e: React.PointerEvent, i: number, done: boolean) => {
    const [rect, f] = [svg.current?.getBoundingClientRect(), feet[i]];
    if (!rect || !f) return;
    const [x, y] = [((e.clientX - rect.left) / rect.width) * w + l, ((e.clientY - rect.top) / rect.height) * h + t];
    put(i, ((x - f.x) * f.nx + (y - f.y) * f.ny) / far, done);
  };
  return (
    <svg
      ref={svg}
      viewBox={`${l} ${t} ${w} ${h}`}
      style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', overflow: 'visible', pointerEvents: 'none' }}
    >
      <title>the pressure along the first chosen line</title>
      <polyline points={heads.map((p) => p.join(',')).join(' ')} fill="none" stroke="var(--eddy)" strokeWidth={w / 500} strokeDasharray={`${w / 160}`} />
      {heads.map(([x, y], i) => (
        <g key={i}>
          <line x1={feet[i]?.x} y1={feet[i]?.y} x2={x} y2={y} stroke="var(--eddy)" strokeWidth={w / 800} />
          <circle
            cx={x}
            cy={y}
            r={w / 90}
            className="on-line"
            strokeWidth={w / 400}
            style={{ pointerEvents: 'auto', cursor: 'grab', touchAction: 'none' }}
            tabIndex={0}
            role="slider"
            aria-label={`effort at ${((100 * i) / (efforts.length - 1)).toFixed(0)} % of the line`}
            aria-valuemin={0}
            aria-valuemax={1}
            aria-valuenow={efforts[i]}
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && pull(e, i, false)}
            onPointerUp={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && pull(e, i, true)}
            onKeyDown={(e) => {
              const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
              if (!step) return;
              e.preventDefault();
              put(i, (efforts[i] ?? 0) + step * (e.shiftKey ? 0.1 : 0.01), true);
            }}
          />
        </g>
      ))}
    </svg>
  );
}
