// The two axes of a plot: below it and at its left, in the tables' type.
import { AxisBottom, AxisLeft } from '@visx/axis';
import type { ScaleLinear } from 'd3-scale';

const TICK = { fontSize: 12, fill: 'var(--ink-soft)', fontFamily: 'var(--tight)' };

/** `top` is where the lower axis lies, `left` where the left one does. */
export function Axes({ x, y, top, left }: { x: ScaleLinear<number, number>; y: ScaleLinear<number, number>; top: number; left: number }) {
  return (
    <>
      <AxisBottom top={top} scale={x} numTicks={5} tickLabelProps={TICK} stroke="var(--ink-faint)" tickStroke="var(--ink-faint)" />
      <AxisLeft
        left={left}
        scale={y}
        numTicks={4}
        tickLabelProps={{ ...TICK, dx: -4, dy: 3, textAnchor: 'end' }}
        stroke="var(--ink-faint)"
        tickStroke="var(--ink-faint)"
      />
    </>
  );
}
