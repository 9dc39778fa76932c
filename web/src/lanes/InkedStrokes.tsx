// Strokes as a brush inks them, as SVG in mm.
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { loadEngine, makeEngine, type Samples, strokePaths, strokePicture } from '../engine/engine';

type Ink = { paths: [string, number][]; pictures: { href: string; x: number; y: number; width: number; height: number }[] };

/** Resolution at which stamped strokes are shown, px a mm. */
const FINE = 12;

/** A brush's ink of strokes; null while it is made, a sentence where it cannot be. */
export function useInk(brush: Schemas['Brush'] | undefined, response: number[][] | null | undefined, strokes: Samples[] | undefined): Ink | string | null {
  const [ink, setInk] = useState<Ink | string | null>(null);
  useEffect(() => {
    if (!brush || !strokes) return;
    let gone = false;
    const made: Ink = { paths: [], pictures: [] };
    loadEngine().then(async () => {
      try {
        const engine = makeEngine(brush, response);
        for (const s of strokes) {
          const picture = strokePicture(engine, s, FINE, brush.colour ?? '#000000');
          if (picture) {
            const blob = await picture.canvas.convertToBlob();
            made.pictures.push({ href: URL.createObjectURL(blob), x: picture.x, y: picture.y, width: picture.width, height: picture.height });
          } else made.paths.push(...strokePaths(engine, s));
        }
        engine.free();
        if (!gone) setInk(made);
      } catch (e) {
        if (!gone) setInk(e instanceof Error ? e.message : String(e));
      }
    });
    return () => {
      gone = true;
      for (const p of made.pictures) URL.revokeObjectURL(p.href);
    };
  }, [brush, response, strokes]);
  return ink;
}

/** The ink in a colour, to stand within an SVG of mm. */
export function InkShapes({ ink, colour, opacity = 1 }: { ink: Ink | string | null; colour: string; opacity?: number }) {
  if (!ink || typeof ink === 'string') return null;
  return (
    <g fill={colour} opacity={opacity}>
      {ink.paths.map(([d, alpha], i) => (
        <path key={i} d={d} fillOpacity={alpha} />
      ))}
      {ink.pictures.map((p, i) => (
        <image key={i} href={p.href} x={p.x} y={p.y} width={p.width} height={p.height} />
      ))}
    </g>
  );
}
