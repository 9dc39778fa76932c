// A sampler sheet set upright: its scan or its photo laid flat, its cells, and over every line the edges that were measured.
import { Fragment, useRef } from 'react';
import type { Schemas } from '../api/client';
import { pathOf } from '../lanes/Lane';

type Reading = Schemas['SheetReading'];
type Cell = Schemas['CellReading'];

/** One stroke's edges in scan px. */
function edges(s: Schemas['StrokeReading'], side: number[]) {
  const [x0 = 0, y0 = 0] = s.from;
  const [x1 = 0, y1 = 0] = s.to;
  const n = Math.hypot(x1 - x0, y1 - y0) || 1;
  const [dx, dy] = [(x1 - x0) / n, (y1 - y0) / n];
  const px = n / Math.max(1, (side.length - 1) * s.step_mm);
  return side.map((e, i) => {
    const t = (i / Math.max(1, side.length - 1)) * n;
    const across = (e + (s.bow_mm?.[i] ?? 0)) * px;
    return [x0 + dx * t - dy * across, y0 + dy * t + dx * across];
  });
}

/** Both edges of a line of any course, in scan px. */
function beside(line: Schemas['FreeLine'], reading: Reading) {
  const px = (reading.beside?.dpi[0] ?? reading.resolution_dpi) / 25.4;
  const at = (i: number) => line.points_px[Math.max(0, Math.min(line.points_px.length - 1, i))] ?? [0, 0];
  return [-1, 1].map((side) =>
    line.points_px.map(([x = 0, y = 0], i) => {
      const [ax = 0, ay = 0] = at(i - 3);
      const [bx = 0, by = 0] = at(i + 3);
      const n = Math.hypot(bx - ax, by - ay) || 1;
      const off = (side * px * (line.width_mm[i] ?? 0)) / 2;
      return [x - ((by - ay) / n) * off, y + ((bx - ax) / n) * off];
    }),
  );
}

/** Where a sheet's picture is: whole, and as large as it was read. A photo was laid flat, and places are of that picture. */
export function sheetPictures(image: string, reading: Reading) {
  const laid = `${image}/preview?laid=true`;
  return reading.photo ? { whole: laid, large: laid } : { whole: `${image}/preview?flat=true`, large: image };
}

export function cellState(cell: Cell, leftOut: boolean) {
  if (leftOut) return 'left out';
  const found = cell.strokes.length + (cell.free?.length ?? 0) + (cell.by_direction?.length ? 1 : 0) + (cell.tone != null ? 1 : 0);
  if (!found && cell.kind === 'signature') return 'no line in it';
  if (!found) return 'not read';
  return cell.says?.length ? 'read in part' : 'read';
}

type Props = {
  reading: Reading;
  width: number;
  height: number;
  src: string;
  leftOut: string[];
  /** The cell shown alone and large; the whole sheet where there is none. */
  cell?: string | null;
  onCell?: (id: string) => void;
  /** Corners of the shown cell in scan px while they are marked by hand. */
  corners?: number[][] | null;
  onCorners?: (corners: number[][]) => void;
  style?: React.CSSProperties;
};

export function SheetPicture({ reading, width, height, src, leftOut, cell, onCell, corners, onCorners, style }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [w = 210, h = 297] = reading.plan.size_mm;
  const [a, b, , d] = reading.page_px.map(([x = 0, y = 0]) => ({ x, y }));
  if (!a || !b || !d) return null;
  // Scan px to mm of the sheet: the inverse of the page's own axes, so that it stands upright.
  const [m0, m1, m2, m3] = [(b.x - a.x) / w, (b.y - a.y) / w, (d.x - a.x) / h, (d.y - a.y) / h];
  const det = m0 * m3 - m1 * m2;
  const inverse = `matrix(${m3 / det} ${-m1 / det} ${-m2 / det} ${m0 / det} ${(-m3 * a.x + m2 * a.y) / det} ${(m1 * a.x - m0 * a.y) / det})`;
  const shown = cell ? reading.plan.cells.find((c) => c.id === cell) : undefined;
  const around = corners ? 8 : 0;
  const [vx = 0, vy = 0, vw = w, vh = h] = shown ? shown.area : [0, 0, w, h];
  const mm = ([x = 0, y = 0]: number[]) => [(m3 * (x - a.x) - m2 * (y - a.y)) / det, (m0 * (y - a.y) - m1 * (x - a.x)) / det] as const;
  /** Scan px of a place on the screen. */
  const px = (e: React.PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    const u = vx - around + ((e.clientX - box.left) / box.width) * (vw + 2 * around);
    const v = vy - around + ((e.clientY - box.top) / box.height) * (vh + 2 * around);
    return [a.x + m0 * u + m2 * v, a.y + m1 * u + m3 * v];
  };
  const move = (i: number, to: number[]) => corners && onCorners?.(corners.map((c, k) => (k === i ? to : c)));
  const line = (points: number[][]) =>
    pathOf(
      points,
      (v) => v,
      (v) => v,
    );
  return (
    <svg
      ref={svg}
      viewBox={`${vx - around} ${vy - around} ${vw + 2 * around} ${vh + 2 * around}`}
      style={{ width: '100%', display: 'block', background: '#fff', ...style }}
      role="img"
      aria-label="straightened sheet with measured edges"
    >
      <g transform={inverse}>
        <image href={src} width={width} height={height} preserveAspectRatio="none" />
        {reading.cells
          .filter((c) => !leftOut.includes(c.id))
          .map((c) => (
            <Fragment key={c.id}>
              {[...(c.ring_px ?? []), ...(c.free?.flatMap((l) => beside(l, reading)) ?? [])].map((points, k) => (
                <path key={`course-${k}`} d={line(points)} fill="none" stroke="var(--eddy)" strokeWidth="1.1" vectorEffect="non-scaling-stroke" />
              ))}
              {c.strokes.map((s) =>
                s.dot_mm != null ? (
                  <circle
                    key={s.slot}
                    cx={s.from[0]}
                    cy={s.from[1]}
                    r={(s.dot_mm / 2 / 25.4) * (reading.beside?.dpi[0] ?? reading.resolution_dpi)}
                    fill="none"
                    stroke="var(--eddy)"
                    strokeWidth="1.3"
                    vectorEffect="non-scaling-stroke"
                  />
                ) : (
                  [s.left_mm, s.right_mm].map((side, k) => (
                    <path
                      key={`${s.slot}-${k}`}
                      d={line(edges(s, side))}
                      fill="none"
                      stroke="var(--eddy)"
                      strokeWidth="1.1"
                      vectorEffect="non-scaling-stroke"
                    />
                  ))
                ),
              )}
            </Fragment>
          ))}
      </g>
      {corners && (
        <>
          <polygon
            points={corners.map((c) => mm(c).join(',')).join(' ')}
            fill="none"
            stroke="var(--eddy)"
            strokeWidth="1.5"
            strokeDasharray="5 4"
            vectorEffect="non-scaling-stroke"
          />
          {corners.map((c, i) => {
            const [x, y] = mm(c);
            return (
              <circle
                key={i}
                role="slider"
                tabIndex={0}
                aria-label={`${['upper left', 'upper right', 'lower right', 'lower left'][i]} corner`}
                aria-valuenow={Math.round(x * 10) / 10}
                aria-valuetext={`${x.toFixed(1)} mm across, ${y.toFixed(1)} mm down`}
                cx={x}
                cy={y}
                r={2.2}
                fill="#fff"
                stroke="var(--eddy)"
                strokeWidth="2"
                vectorEffect="non-scaling-stroke"
                style={{ cursor: 'move', touchAction: 'none' }}
                onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
                onPointerMove={(e) => e.buttons > 0 && move(i, px(e))}
                onKeyDown={(e) => {
                  const step = e.shiftKey ? 10 : 1;
                  const way = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
                  if (!way) return;
                  e.preventDefault();
                  move(i, [(c[0] ?? 0) + (way[0] ?? 0), (c[1] ?? 0) + (way[1] ?? 0)]);
                }}
              />
            );
          })}
        </>
      )}
      {onCell &&
        reading.plan.cells.map((c) => {
          const found = reading.cells.find((r) => r.id === c.id);
          const state = found ? cellState(found, leftOut.includes(c.id)) : 'not read';
          const stroke = state === 'not read' ? 'var(--stop)' : state === 'read in part' ? 'var(--warn)' : 'transparent';
          return (
            <a
              key={c.id}
              href={`#${c.id}`}
              aria-label={`${c.title}: ${state}`}
              onClick={(e) => {
                e.preventDefault();
                onCell(c.id);
              }}
            >
              <rect
                x={c.area[0]}
                y={c.area[1]}
                width={c.area[2]}
                height={c.area[3]}
                fill={state === 'left out' ? 'rgba(233,238,238,.8)' : 'transparent'}
                stroke={stroke}
                strokeWidth="1.6"
                vectorEffect="non-scaling-stroke"
              />
            </a>
          );
        })}
    </svg>
  );
}
