// A pen's line: the straightened scan with the measured edges over it.
import type { Schemas } from '../api/client';
import { pathOf } from './Lane';

export function StraightLine({ line, length, height = 58 }: { line: Schemas['PenLine']; length: number; height?: number }) {
  // Across the line the picture is drawn larger than along it, so that the edges can be seen.
  const across = Math.min(line.strip_mm[1] ?? 1, 2.2 * Math.max(0.1, ...line.width_mm));
  const [w, h] = [line.strip_mm[0] ?? 1, line.strip_mm[1] ?? 1];
  const y = (v: number) => v;
  const edge = (mm: number[]) =>
    pathOf(
      mm.map((e, i) => [i * line.step_mm, e]),
      (v) => v,
      y,
    );
  return (
    <svg
      viewBox={`0 ${-across / 2} ${length} ${across}`}
      preserveAspectRatio="none"
      style={{ height, width: '100%', display: 'block' }}
      role="img"
      aria-label="straightened line with its measured edges"
    >
      <image href={line.strip_png} x={0} y={-h / 2} width={w} height={h} preserveAspectRatio="none" />
      <path d={edge(line.left_mm)} fill="none" stroke="var(--eddy)" strokeWidth="1.6" vectorEffect="non-scaling-stroke" />
      <path d={edge(line.right_mm)} fill="none" stroke="var(--eddy)" strokeWidth="1.6" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** The outline that a line's measured edges make. */
function outlineOf(line: Schemas['PenLine'], until = Number.POSITIVE_INFINITY) {
  const edge = (mm: number[]) => mm.map((e, i) => [i * line.step_mm, e]).filter(([x]) => (x ?? 0) <= until);
  return pathOf(
    [...edge(line.left_mm), ...edge(line.right_mm).reverse()],
    (v) => v,
    (v) => v,
    true,
  );
}

/** So much of a line's shape as there is room for, as wide as its place. */
export function LineShape({ line, length, half, label }: { line: Schemas['PenLine']; length: number; half: number; label: string }) {
  return (
    <svg viewBox={`0 ${-half} ${length} ${2 * half}`} width="100%" role="img" aria-label={label} style={{ display: 'block', alignSelf: 'center' }}>
      <path d={outlineOf(line, length)} fill="var(--ink)" />
    </svg>
  );
}

/** The line itself, as a shape of its measured edges at a scale in px for one mm. */
export function TrueLine({ line, scale }: { line: Schemas['PenLine']; scale: number }) {
  const length = line.left_mm.length * line.step_mm;
  const half = Math.max(0.3, ...line.width_mm) * 0.75;
  return (
    <svg
      viewBox={`0 ${-half} ${length} ${2 * half}`}
      width={length * scale}
      height={2 * half * scale}
      aria-hidden
      preserveAspectRatio="xMinYMid meet"
      style={{ width: length * scale, maxWidth: '100%' }}
    >
      <path d={outlineOf(line)} fill="var(--ink)" />
    </svg>
  );
}
