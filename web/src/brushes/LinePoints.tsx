// The points of a line of a file, nudged over the page; its ink follows at the picture's scale.
import { useMemo } from 'react';
import type { Schemas } from '../api/client';
import { PathEngine, type Samples } from '../engine/engine';
import type { View } from '../engine/view';
import { type PointInk, StrokePoints } from '../lanes/StrokePoints';
import { type Line, placesOf } from './usePaths';

type Props = {
  view: View;
  line: Line;
  brush: Schemas['Brush'] | undefined;
  scale: number;
  weightScales: boolean;
  onChange: (points: number[][]) => void;
};

const samplesOf = (points: number[][]): Samples => points.flatMap(([x = 0, y = 0], i) => [i, x, y, Number.NaN, Number.NaN, Number.NaN]);
const pointsOf = (s: ArrayLike<number>) => Array.from({ length: s.length / 6 }, (_, i) => [s[6 * i + 1] ?? 0, s[6 * i + 2] ?? 0]);

export function LinePoints({ view, line, brush, scale, weightScales, onChange }: Props) {
  const places = placesOf(line);
  const samples = useMemo(() => samplesOf(places), [places]);
  const ink: PointInk = {
    // Its width goes by the pressure along it.
    widths: null,
    widened: null,
    scale,
    paths: (s) => {
      if (!brush) return [];
      const engine = new PathEngine(
        JSON.stringify(brush),
        line.course,
        line.factor * (weightScales ? scale : 1),
        line.tapers?.lead_in_mm,
        line.tapers?.lead_out_mm,
      );
      const path = engine.ink(new Float64Array(pointsOf(s).flat()), line.reversed, scale, 0.02);
      engine.free();
      return [path];
    },
  };
  return <StrokePoints view={view} ink={ink} samples={samples} colour={line.colour || (brush?.colour ?? '#000000')} onChange={(s) => onChange(pointsOf(s))} />;
}
