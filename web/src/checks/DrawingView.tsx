// A drawing with its lines coloured by how they weigh, what was not weighed hatched, findings and notes on it; looked at, pinned,
// drawn on, wiped against its earlier take.
import { useMemo, useRef, useState } from 'react';
import type { Schemas } from '../api/client';
import { finder, type Place, runs } from '../parts/picture';
import { PinMarks } from './PinMarks';
import { labelsShown, pinPlaces } from './pinPlaces';
import { outlineOf, type Points } from './region';
import { type Ghost, type Move, transformOf } from './useBehind';
import type { PictureView } from './usePictureView';

export type Tool = 'look' | 'pin' | 'note' | 'region';

type Props = {
  drawing: Schemas['DrawingView'];
  /** The previous and the next drawing, where they are shown through. */
  behind: (Ghost | null)[];
  image: string;
  /** The earlier take's picture, and up to which share of the width it is shown. */
  wipe: { image: string; share: number; laid?: Move | null } | null;
  selected: number | null;
  onSelect: (i: number) => void;
  asDrawn: boolean;
  inPrint: boolean;
  view: PictureView;
  tool: Tool;
  /** Notes that stand on the drawing, and the one that is being drawn. */
  notes: number[][][];
  strokes: Points[];
  onStroke: (s: Points) => void;
  onPin: (x: number, y: number) => void;
  /** A region to be left out, and what was drawn of it. */
  region: Points | null;
  onRegion: (points: Points) => void;
  line: number | null;
  onLine: (line: number) => void;
  at: Place | null;
  onAt: (p: Place | null) => void;
};
export const MASKED: Record<Schemas['MaskKind'], string> = { 'spotted-black': 'spotted black', tone: 'tone', lettering: 'lettering' };
const COLOUR: Record<string, string> = { t: 'var(--thin)', h: 'var(--heavy)', w: 'var(--ink)', '-': '#8b979e' };
const path = (s: number[][]) => s.map((p, i) => `${i ? 'L' : 'M'}${p[0]} ${p[1]}`).join('');

export function DrawingPicture(p: Props) {
  const { drawing, image, selected, asDrawn, view } = p;
  const [w, h] = [drawing.check?.width_px ?? 1920, drawing.check?.height_px ?? 1080];
  const findings = drawing.check?.findings ?? [];
  const [pan, setPan] = useState<[number, number] | null>(null);
  const [drawn, setDrawn] = useState<Points | null>(null);
  // A click that ends what was drawn chooses nothing.
  const drew = useRef(false);
  const paths = useMemo(() => runs(drawing.lines).sort((a, b) => '-wth'.indexOf(a.standing) - '-wth'.indexOf(b.standing)), [drawing.lines]);
  const ghosts = useMemo(() => p.behind.map((b) => ({ runs: b ? runs(b.drawing.lines) : [], findings: b?.drawing.check?.findings ?? [] })), [p.behind]);
  const nearest = useMemo(() => finder(drawing.lines), [drawing.lines]);
  const { x: x0, y: y0, width: zw, height: zh } = view;
  // What is laid over the drawing has one size on the screen, however near it is seen.
  const k = Math.max(zw / 880, zh / 560);
  const point = (e: React.PointerEvent): [number, number] => {
    const [x, y] = view.place(e.clientX, e.clientY);
    return [Math.round(x * 10) / 10, Math.round(y * 10) / 10];
  };
  // A page of pins hides the drawing: the worst dozen and the one looked at are shown; what is meant is not.
  const inSight = (f: { x: number; y: number }) => f.x >= x0 && f.x <= x0 + zw && f.y >= y0 && f.y <= y0 + zh;
  const shown = [...findings.entries()].filter(([i, f]) => i === selected || (i < 12 && !f.dismissed && inSight(f)));
  const pinned = pinPlaces(
    shown.map(([, f]) => f),
    { x: x0, y: y0, width: zw, height: zh },
    { x: w / 2, y: h / 2 },
    k,
    [...drawing.pins, ...(drawing.earlier?.pins ?? [])],
  );
  const masked = drawing.check?.masked ?? [];
  const labelled = labelsShown(
    masked.map((m) => ({ x: m.x, y: m.y - 4 * k, says: `${MASKED[m.kind]}, not measured` })),
    k,
  );
  const cut = p.wipe ? p.wipe.share * w : 0;
  const leaving = p.tool === 'region' && drawn ? outlineOf(drawn) : p.region;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: what the pointer does here, lists and keys beside it do too
    <svg
      ref={view.svg}
      viewBox={`${x0} ${y0} ${zw} ${zh}`}
      width="100%"
      className="drawing-picture"
      style={{ cursor: p.tool === 'look' ? 'default' : 'crosshair' }}
      onContextMenu={(e) => e.preventDefault()}
      aria-label={`drawing ${drawing.file} with its measured lines`}
      onPointerLeave={() => {
        setPan(null);
        p.onAt(null);
      }}
      onPointerDown={(e) => {
        if (view.down(e, p.tool === 'look') || (p.tool !== 'note' && p.tool !== 'region')) return;
        view.svg.current?.setPointerCapture(e.pointerId);
        setDrawn([point(e)]);
      }}
      onPointerCancel={(e) => {
        view.up(e);
        setDrawn(null);
      }}
      onPointerUp={(e) => {
        view.up(e);
        const region = p.tool === 'region' && drawn ? outlineOf(drawn) : null;
        if (region) p.onRegion(region);
        else if (p.tool === 'note' && drawn && drawn.length > 1) p.onStroke(drawn);
        drew.current = !!drawn;
        setDrawn(null);
      }}
      onPointerMove={(e) => {
        if (!drawn && view.move(e)) return;
        const q = point(e);
        setPan(q);
        if (drawn) setDrawn([...drawn, q]);
        else p.onAt(nearest(q[0], q[1], 14 * k));
      }}
      onClick={(e) => {
        if (view.hadMoved() || drew.current) {
          drew.current = false;
          return;
        }
        const q = point(e as unknown as React.PointerEvent);
        if (p.tool === 'pin') p.onPin(q[0], q[1]);
        const on = p.tool === 'look' ? nearest(q[0], q[1], 14 * k) : null;
        if (on) p.onLine(on.line);
      }}
    >
      {ghosts.map((g, i) => (
        <g key={i} opacity={i === 0 ? 0.5 : 1 / 3} transform={transformOf(p.behind[i]?.laid)}>
          {g.runs.map((r, j) => (
            <path key={j} d={r.d} fill="none" stroke="var(--eddy)" strokeWidth={r.width} strokeLinecap="round" />
          ))}
          {g.findings.slice(0, 40).map((f, j) => (
            <circle key={j} cx={f.x} cy={f.y} r={8 * k} fill="none" stroke="var(--eddy)" strokeWidth={2 * k} />
          ))}
        </g>
      ))}
      {asDrawn || p.wipe ? (
        <image href={image} width={w} height={h} style={{ mixBlendMode: 'multiply', imageRendering: view.fine ? 'pixelated' : 'auto' }} />
      ) : (
        paths.map((r, i) => (
          <path key={i} d={r.d} fill="none" stroke={COLOUR[r.standing]} strokeWidth={Math.max(r.width, 1)} strokeLinecap="round" strokeLinejoin="round" />
        ))
      )}
      {p.wipe && (
        <g>
          <clipPath id="wiped">
            <rect x="0" y="0" width={cut} height={h} />
          </clipPath>
          <g clipPath="url(#wiped)">
            <rect width={w} height={h} fill="#fff" />
            <image href={p.wipe.image} width={w} height={h} transform={transformOf(p.wipe.laid)} />
          </g>
          <line x1={cut} x2={cut} y1={y0} y2={y0 + zh} stroke="var(--eddy)" strokeWidth={2 * k} />
          <text x={cut - 8 * k} y={y0 + 18 * k} fontSize={13 * k} textAnchor="end" fill="var(--ink-soft)">
            previous take
          </text>
          <text x={cut + 8 * k} y={y0 + 18 * k} fontSize={13 * k} fill="var(--ink-soft)">
            this take
          </text>
        </g>
      )}
      {p.line !== null && (
        <path
          d={paths
            .filter((r) => r.line === p.line)
            .map((r) => r.d)
            .join('')}
          fill="none"
          stroke="var(--eddy)"
          strokeWidth={2.4 * k}
          strokeDasharray={`${5 * k} ${4 * k}`}
        />
      )}
      <defs>
        <pattern id="masked" width={7 * k} height={7 * k} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2={7 * k} stroke="#8b979e" strokeWidth={1.6 * k} />
        </pattern>
      </defs>
      {masked.map((m, i) => (
        <g key={i}>
          <rect x={m.x} y={m.y} width={m.width} height={m.height} fill="url(#masked)" stroke="#8b979e" strokeWidth={k} />
          {labelled[i] && (
            <text x={m.x} y={m.y - 4 * k} fontSize={12 * k} fill="var(--ink-soft)">
              {MASKED[m.kind]}, not measured
            </text>
          )}
        </g>
      ))}
      {drawing.check?.left_out?.map((r) => (
        <g key={r.name}>
          <polygon
            points={r.points.map((q) => q.join(',')).join(' ')}
            fill="url(#masked)"
            fillOpacity="0.5"
            stroke="#8b979e"
            strokeWidth={k}
            strokeDasharray={`${6 * k} ${4 * k}`}
          />
          <text x={r.points[0]?.[0]} y={(r.points[0]?.[1] ?? 0) + 14 * k} fontSize={12 * k} fill="var(--ink-soft)">
            {r.name}, left out
          </text>
        </g>
      ))}
      {selected !== null &&
        findings[selected]?.stretches?.map((s, i) => (
          <circle key={i} cx={s.x} cy={s.y} r={9 * k} fill="none" stroke="var(--eddy)" strokeWidth={2 * k} pointerEvents="none" />
        ))}
      {p.inPrint &&
        drawing.check?.print?.map((l, i) => (
          <path
            key={i}
            d={path(l.along)}
            fill="none"
            stroke="var(--warn)"
            strokeWidth={(l.lost === 'closes' ? 9 : 5) * k}
            strokeOpacity="0.6"
            strokeLinecap="round"
          >
            <title>
              {l.role}: {l.lost === 'closes' ? 'white that closes' : 'too thin'} in print, {l.value_mm.toFixed(3)} mm where {l.limit_mm.toFixed(2)} is needed
            </title>
          </path>
        ))}
      {selected !== null && findings[selected]?.region && (
        <g>
          <polygon points={findings[selected]?.region?.map((q) => q.join(',')).join(' ')} fill="var(--warn)" fillOpacity="0.18">
            <title>what paint would leak out of</title>
          </polygon>
          <polyline points={findings[selected]?.points?.map((q) => q.join(',')).join(' ')} fill="none" stroke="var(--warn)" strokeWidth={2 * k} />
        </g>
      )}
      {leaving && (
        <polygon
          points={leaving.map((q) => q.join(',')).join(' ')}
          fill="url(#masked)"
          stroke="var(--eddy)"
          strokeWidth={1.6 * k}
          strokeDasharray={`${6 * k} ${4 * k}`}
        />
      )}
      {[...p.notes, ...p.strokes, ...(drawn && p.tool === 'note' ? [drawn] : [])].map((s, i) => (
        <path key={i} d={path(s)} fill="none" stroke="var(--stop)" strokeWidth={2.6 * k} strokeLinecap="round" strokeLinejoin="round" opacity="0.85" />
      ))}
      {shown.map(([i, f], n) => {
        const [cx, cy] = [pinned[n]?.x ?? f.x, pinned[n]?.y ?? f.y];
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list beside it does the same by keyboard
          <g
            key={i}
            onClick={(e) => {
              e.stopPropagation();
              p.onSelect(i);
            }}
            style={{ cursor: 'pointer' }}
          >
            <line x1={cx} y1={cy} x2={f.x} y2={f.y} stroke="var(--ink)" strokeWidth={1.2 * k} />
            <circle cx={cx} cy={cy} r={(i === selected ? 12 : 10) * k} fill={i === selected ? 'var(--eddy)' : 'var(--ink)'} />
            <text x={cx} y={cy + 4.2 * k} textAnchor="middle" fontSize={12 * k} fill="var(--paper)" fontWeight="600">
              {i + 1}
            </text>
          </g>
        );
      })}
      <PinMarks drawing={drawing} k={k} />
      {p.at && <circle cx={p.at.x} cy={p.at.y} r={Math.max(p.at.width, 6 * k)} fill="none" stroke="var(--eddy)" strokeWidth={1.6 * k} pointerEvents="none" />}
      {pan && (
        <text x={x0 + 8 * k} y={y0 + zh - 8 * k} fontSize={12 * k} fill="var(--ink-soft)">
          {pan[0].toFixed(0)}, {pan[1].toFixed(0)} px{p.at ? ` · ${p.at.width.toFixed(2)} px wide` : ''}
        </text>
      )}
    </svg>
  );
}
