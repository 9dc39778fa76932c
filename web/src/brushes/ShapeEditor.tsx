// A shape that is drawn and repaired on the page: corners and bends are dragged, added, taken out; several pieces; mirrored if wished.
import { useRef, useState } from 'react';
import { level_rings, shape_rings } from '../../engine/prebuilt/eddymist_wasm';
import { type Schemas, sendFiles } from '../api/client';
import { useOpen } from '../session';

export type Ring = [number, number][];

type Props = {
  /** Closed rings in units of the shape's length, x along it, y down. */
  rings: Ring[];
  onChange: (rings: Ring[], done: boolean) => void;
  disabled?: boolean;
  /** Whether it may be of several pieces. */
  pieces: boolean;
  /** Whether a ring within another may leave a hole. */
  holes?: boolean;
  /** How far the drawing field reaches on either side of the middle. */
  reach?: [number, number];
  label: string;
};

/** A ring with every corner rounded into a bend (a closed Catmull–Rom curve through its points). */
function bent(ring: Ring): Ring {
  const n = ring.length;
  const at = (i: number): [number, number] => ring[(i + n) % n] ?? [0, 0];
  return ring.flatMap((_, i) => {
    const [a, b, c, d] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
    return [0, 0.25, 0.5, 0.75].map((t): [number, number] => {
      const mix = (k: 0 | 1) =>
        0.5 * (2 * b[k] + (c[k] - a[k]) * t + (2 * a[k] - 5 * b[k] + 4 * c[k] - d[k]) * t * t + (3 * b[k] - a[k] - 3 * c[k] + d[k]) * t ** 3);
      return [mix(0), mix(1)];
    });
  });
}

/** Rings of any SVG path data, its length 1 and its middle at 0; none where it is no shape. */
export function ringsOf(path: string): Ring[] {
  const rings: Ring[] = [[]];
  try {
    const flat = shape_rings(path);
    for (let i = 0; i + 1 < flat.length; i += 2) {
      const [x = 0, y = 0] = [flat[i], flat[i + 1]];
      if (Number.isNaN(x)) rings.push([]);
      else rings[rings.length - 1]?.push([x, y]);
    }
  } catch {
    return [];
  }
  return rings.filter((r) => r.length > 2);
}

export const pathOfRings = (rings: Ring[]) => rings.map((r) => `M${r.map(([x, y]) => `${x.toFixed(4)} ${y.toFixed(4)}`).join('L')}Z`).join('');

const area = (r: Ring) => r.reduce((sum, [x, y], i) => sum + x * (r[(i + 1) % r.length]?.[1] ?? 0) - (r[(i + 1) % r.length]?.[0] ?? 0) * y, 0);

/** The largest ring first, and those that turn as it does; the others are holes in it. */
function solid(rings: Ring[]): Ring[] {
  const sorted = [...rings].sort((a, b) => Math.abs(area(b)) - Math.abs(area(a)));
  return sorted.filter((r) => Math.sign(area(r)) === Math.sign(area(sorted[0] ?? r)));
}

/** What a picture or a scan shows, its border traced and laid level. */
export async function ringsFromPicture(production: string, file: File): Promise<{ rings: Ring[]; turned: number }> {
  const tip = await sendFiles<Schemas['TipView']>(`/api/v1/productions/${production}/tips`, [file]);
  const rings = ringsOf(tip.shape_path);
  if (!rings.length) throw new Error('There is no ink in it that stands out from its ground.');
  return { rings, turned: tip.turned_deg };
}

/** The shapes of an SVG file as rings, laid level and scaled to a length of 1. */
export function ringsFromSvg(text: string): { rings: Ring[]; turned: number } {
  const file = new DOMParser().parseFromString(text, 'image/svg+xml');
  if (file.querySelector('parsererror')) throw new Error('This is no readable SVG.');
  const host = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
  host.style.cssText = 'position:absolute;width:0;height:0;visibility:hidden';
  document.body.append(host);
  const flat: number[] = [];
  for (const el of file.querySelectorAll('path, polygon, rect, circle, ellipse')) {
    // Only its outline is taken: no script, no style, no reference comes along.
    const clean = document.createElementNS('http://www.w3.org/2000/svg', el.tagName);
    for (const name of ['d', 'points', 'x', 'y', 'width', 'height', 'cx', 'cy', 'r', 'rx', 'ry', 'transform']) {
      const v = el.getAttribute(name);
      if (v) clean.setAttribute(name, v);
    }
    host.append(clean);
    const shape = clean as SVGGeometryElement;
    const long = shape.getTotalLength();
    if (!(long > 0)) continue;
    const n = Math.min(160, Math.max(24, Math.round(long)));
    for (let i = 0; i < n; i++) {
      const p = shape.getPointAtLength((long * i) / n);
      flat.push(p.x, p.y);
    }
    flat.push(Number.NaN, Number.NaN);
  }
  host.remove();
  const [path = '', turned = '0'] = level_rings(new Float64Array(flat));
  const rings = path ? ringsOf(path) : [];
  if (!rings.length) throw new Error('There is no closed shape in it.');
  return { rings, turned: Number(turned) };
}

export function ShapeEditor({ rings, onChange, disabled, pieces, holes, reach = [0.6, 0.4], label }: Props) {
  const { production } = useOpen();
  const svg = useRef<SVGSVGElement>(null);
  const [chosen, setChosen] = useState<[number, number] | null>(null);
  const [mirrored, setMirrored] = useState(false);
  const [says, setSays] = useState('');
  const [w, h] = reach;
  const place = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = svg.current?.getBoundingClientRect();
    if (!r) return [0, 0];
    return [((e.clientX - r.left) / r.width - 0.5) * 2 * w, ((e.clientY - r.top) / r.height - 0.5) * 2 * h];
  };
  const held = (p: [number, number]): [number, number] => [
    Math.round(Math.max(-w, Math.min(w, p[0])) * 1000) / 1000,
    Math.round(Math.max(-h, Math.min(h, p[1])) * 1000) / 1000,
  ];
  /** Of a mirrored shape only the upper half is drawn by hand. */
  const whole = (next: Ring[]): Ring[] => {
    if (!mirrored) return next;
    return next.map((r) => {
      const top = r.filter((p) => p[1] <= 1e-9);
      const low = [...top].reverse().filter((p) => p[1] < -1e-9);
      return top.length > 1 ? [...top, ...low.map(([x, y]): [number, number] => [x, -y])] : r;
    });
  };
  const move = (k: number, i: number, to: [number, number], done: boolean) =>
    onChange(whole(rings.map((r, a) => (a === k ? r.map((p, b) => (b === i ? held(mirrored && to[1] > 0 ? [to[0], 0] : to) : p)) : r))), done);
  const add = (e: React.MouseEvent) => {
    if (disabled) return;
    const p = place(e);
    let best = { d: Number.POSITIVE_INFINITY, k: 0, i: 0 };
    rings.forEach((r, k) => {
      r.forEach((a, i) => {
        const b = r[(i + 1) % r.length] ?? a;
        const l2 = (b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2;
        const t = l2 ? Math.max(0, Math.min(1, ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / l2)) : 0;
        const d = Math.hypot(a[0] + (b[0] - a[0]) * t - p[0], a[1] + (b[1] - a[1]) * t - p[1]);
        if (d < best.d) best = { d, k, i };
      });
    });
    onChange(whole(rings.map((r, k) => (k === best.k ? [...r.slice(0, best.i + 1), held(p), ...r.slice(best.i + 1)] : r))), true);
    setChosen([best.k, best.i + 1]);
  };
  const takeOut = () => {
    if (!chosen) return;
    const [k, i] = chosen;
    const left = rings.map((r, a) => (a === k ? r.filter((_, b) => b !== i) : r)).filter((r) => r.length > 2);
    if (left.length) onChange(whole(left), true);
    setChosen(null);
  };
  const [k = -1, i = -1] = chosen ?? [];
  return (
    <div>
      <svg
        ref={svg}
        viewBox={`${-w} ${-h} ${2 * w} ${2 * h}`}
        width="100%"
        style={{ touchAction: 'none', background: '#fbfaf6', border: '1px solid var(--hairline)' }}
        role="group"
        aria-label={`${label}: double click adds a point`}
        onDoubleClick={add}
      >
        <line x1={-w} x2={w} y1={0} y2={0} stroke="var(--hairline)" strokeWidth={0.006} />
        <path d={`M${w - 0.09} -0.025L${w - 0.02} 0L${w - 0.09} 0.025`} fill="none" stroke="var(--ink-soft)" strokeWidth={0.012} />
        <path d={pathOfRings(rings)} fill="var(--ink)" fillOpacity="0.85" fillRule="nonzero" />
        {rings.flatMap((r, a) =>
          r.map((p, b) => (
            <circle
              key={`${a}.${b}`}
              cx={p[0]}
              cy={p[1]}
              r={r.length > 40 ? 0.011 : 0.022}
              fill={k === a && i === b ? 'var(--eddy)' : 'var(--paper)'}
              stroke="var(--eddy)"
              strokeWidth={0.008}
              tabIndex={disabled ? -1 : 0}
              role="button"
              aria-label={`point ${b + 1}${rings.length > 1 ? ` of piece ${a + 1}` : ''}`}
              style={{ cursor: 'grab' }}
              onFocus={() => setChosen([a, b])}
              onKeyDown={(e) => {
                const step = e.shiftKey ? 0.05 : 0.005;
                const way = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
                if (disabled) return;
                if (e.key === 'Delete' || e.key === 'Backspace') takeOut();
                if (!way) return;
                e.preventDefault();
                move(a, b, [p[0] + (way[0] ?? 0), p[1] + (way[1] ?? 0)], true);
              }}
              onPointerDown={(e) => {
                if (disabled) return;
                e.currentTarget.setPointerCapture(e.pointerId);
                setChosen([a, b]);
              }}
              onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && move(a, b, place(e), false)}
              onPointerUp={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && move(a, b, place(e), true)}
            />
          )),
        )}
      </svg>
      <div className="d-flex flex-wrap gap-3 tight">
        <button type="button" className="btn-word" disabled={disabled || !chosen} onClick={takeOut}>
          Remove point
        </button>
        <button type="button" className="btn-word" disabled={disabled || rings.flat().length > 200} onClick={() => onChange(rings.map(bent), true)}>
          Round corners
        </button>
        <button
          type="button"
          className="btn-word"
          aria-pressed={mirrored}
          disabled={disabled}
          onClick={() => {
            setMirrored(!mirrored);
          }}
        >
          {mirrored ? 'Mirrored: its upper half leads' : 'Mirror shape'}
        </button>
        {pieces && (
          <button
            type="button"
            className="btn-word"
            disabled={disabled}
            onClick={() =>
              onChange(
                [
                  ...rings,
                  [
                    [-0.1, 0.15],
                    [0.1, 0.15],
                    [0, 0.3],
                  ],
                ],
                true,
              )
            }
          >
            Add a piece
          </button>
        )}
        <label className="btn-word" style={{ cursor: 'pointer' }}>
          From an SVG, a picture or a scan…
          <input
            type="file"
            accept=".svg,image/svg+xml,image/png,image/tiff,image/jpeg"
            className="visually-hidden"
            aria-label={`${label} from a file`}
            disabled={disabled}
            onChange={async (e) => {
              const file = e.target.files?.[0];
              e.target.value = '';
              if (!file) return;
              try {
                const svg = /svg/.test(file.type) || /\.svg$/i.test(file.name);
                const found = svg ? ringsFromSvg(await file.text()) : await ringsFromPicture(production.id, file);
                const kept = holes ? found.rings : solid(found.rings);
                onChange(pieces ? kept : kept.slice(0, 1), true);
                const left = [
                  ...(kept.length < found.rings.length ? ['its holes are filled: a shape has none here'] : []),
                  ...(!pieces && kept.length > 1 ? ['one piece is needed here, the largest was taken'] : []),
                ];
                setSays([`Levelled: turned by ${found.turned.toFixed(1)}°`, ...left].join('; ').concat('.'));
              } catch (error) {
                setSays(error instanceof Error ? error.message : String(error));
              }
            }}
          />
        </label>
      </div>
      <div className="soft tight" role="status">
        {says || 'Drag the points; double click adds one. The arrow shows the direction of travel.'}
      </div>
    </div>
  );
}
