// A drawing with its lines coloured by how they weigh, what was not weighed hatched, its findings pinned, and zoom to each.
import { useMemo, useRef, useState } from 'react';
import type { Schemas } from '../api/client';

type Props = {
  drawing: Schemas['DrawingView'];
  behind: Schemas['DrawingView'][];
  image: string;
  selected: number | null;
  onSelect: (i: number) => void;
  asDrawn: boolean;
  zoomed: boolean;
};
export const MASKED: Record<Schemas['MaskKind'], string> = { 'spotted-black': 'spotted black', tone: 'tone', lettering: 'lettering' };
const COLOUR: Record<string, string> = { t: 'var(--thin)', h: 'var(--heavy)', w: 'var(--ink)', '-': '#8b979e' };

/** Runs of one standing along a line, as one path each. */
function runs(lines: Schemas['WeighedLineView'][]) {
  return lines.flatMap((l) => {
    const out: { standing: string; d: string; width: number }[] = [];
    let from = 0;
    for (let i = 1; i <= l.standing.length; i++) {
      if (i < l.standing.length && l.standing[i] === l.standing[from]) continue;
      const to = Math.min(i, l.standing.length - 1);
      let d = '';
      let width = 0;
      for (let k = from; k <= to; k++) {
        d += `${k === from ? 'M' : 'L'}${(l.places[3 * k] ?? 0) / 10} ${(l.places[3 * k + 1] ?? 0) / 10}`;
        width += (l.places[3 * k + 2] ?? 0) / 10;
      }
      out.push({ standing: l.standing[from] ?? '-', d, width: width / (to - from + 1) });
      from = i;
    }
    return out;
  });
}

export function DrawingPicture({ drawing, behind, image, selected, onSelect, asDrawn, zoomed }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [w, h] = [drawing.check?.width_px ?? 1920, drawing.check?.height_px ?? 1080];
  const findings = drawing.check?.findings ?? [];
  const focus = selected !== null && zoomed ? findings[selected] : undefined;
  const [pan, setPan] = useState<[number, number] | null>(null);
  const paths = useMemo(() => runs(drawing.lines).sort((a, b) => '-wth'.indexOf(a.standing) - '-wth'.indexOf(b.standing)), [drawing.lines]);
  const ghosts = useMemo(() => behind.map((b) => runs(b.lines)), [behind]);
  const zw = focus ? w / 3.2 : w;
  const zh = focus ? h / 3.2 : h;
  const x0 = focus ? Math.min(w - zw, Math.max(0, focus.x - zw / 2)) : 0;
  const y0 = focus ? Math.min(h - zh, Math.max(0, focus.y - zh / 2)) : 0;
  const k = zw / 880;
  return (
    <svg
      ref={svg}
      viewBox={`${x0} ${y0} ${zw} ${zh}`}
      width="100%"
      style={{ background: 'var(--paper)', display: 'block', maxHeight: 520 }}
      role="img"
      aria-label={`drawing ${drawing.file} with its weighed lines`}
      onPointerLeave={() => setPan(null)}
      onPointerMove={(e) => {
        const r = svg.current?.getBoundingClientRect();
        if (r) setPan([x0 + ((e.clientX - r.left) / r.width) * zw, y0 + ((e.clientY - r.top) / r.height) * zh]);
      }}
    >
      {ghosts.map((g, i) => (
        <g key={i} opacity="0.16">
          {g.map((r, j) => (
            <path key={j} d={r.d} fill="none" stroke="#2b6f6f" strokeWidth={r.width} strokeLinecap="round" />
          ))}
        </g>
      ))}
      {asDrawn ? (
        <image href={image} width={w} height={h} style={{ mixBlendMode: 'multiply' }} />
      ) : (
        paths.map((r, i) => (
          <path key={i} d={r.d} fill="none" stroke={COLOUR[r.standing]} strokeWidth={Math.max(r.width, 1)} strokeLinecap="round" strokeLinejoin="round" />
        ))
      )}
      <defs>
        <pattern id="masked" width={7 * k} height={7 * k} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2={7 * k} stroke="#8b979e" strokeWidth={1.6 * k} />
        </pattern>
      </defs>
      {drawing.check?.masked?.map((m, i) => (
        <g key={i}>
          <rect x={m.x} y={m.y} width={m.width} height={m.height} fill="url(#masked)" stroke="#8b979e" strokeWidth={k} />
          <text x={m.x} y={m.y - 4 * k} fontSize={12 * k} fill="var(--ink-soft)">
            {MASKED[m.kind]}, not weighed
          </text>
        </g>
      ))}
      {selected !== null && findings[selected]?.region && (
        <g>
          <polygon points={findings[selected]?.region?.map((p) => p.join(',')).join(' ')} fill="var(--warn)" fillOpacity="0.18">
            <title>what paint would leak out of</title>
          </polygon>
          <polyline points={findings[selected]?.points?.map((p) => p.join(',')).join(' ')} fill="none" stroke="var(--warn)" strokeWidth={2 * k} />
        </g>
      )}
      {findings.map((f, i) => {
        // A page of pins hides the drawing: the worst dozen and the one looked at are shown.
        if (i >= 12 && i !== selected) return null;
        // A pin stands off the line, away from the middle of the picture.
        const away = Math.hypot(f.x - w / 2, f.y - h / 2) || 1;
        const [px, py] = [f.x + ((f.x - w / 2) / away) * 58 * k, f.y + ((f.y - h / 2) / away) * 44 * k];
        const [cx, cy] = [Math.min(x0 + zw - 14 * k, Math.max(x0 + 14 * k, px)), Math.min(y0 + zh - 14 * k, Math.max(y0 + 14 * k, py))];
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list beside it does the same by keyboard
          <g key={i} onClick={() => onSelect(i)} style={{ cursor: 'pointer' }}>
            <line x1={cx} y1={cy} x2={f.x} y2={f.y} stroke="var(--ink)" strokeWidth={1.2 * k} />
            <circle cx={cx} cy={cy} r={(i === selected ? 12 : 10) * k} fill={i === selected ? 'var(--eddy)' : 'var(--ink)'} />
            <text x={cx} y={cy + 4.2 * k} textAnchor="middle" fontSize={12 * k} fill="var(--paper)" fontWeight="600">
              {i + 1}
            </text>
          </g>
        );
      })}
      {pan && (
        <text x={x0 + 8 * k} y={y0 + zh - 8 * k} fontSize={12 * k} fill="var(--ink-soft)">
          {pan[0].toFixed(0)}, {pan[1].toFixed(0)} px
        </text>
      )}
    </svg>
  );
}
