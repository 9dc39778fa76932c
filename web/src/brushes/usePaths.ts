// Lines of an SVG being inked: which are chosen and how each is inked, with steps back and forth; it outlives a reload.
import { useRef, useState } from 'react';
import type { Schemas } from '../api/client';
import type { Tapers } from '../engine/engine';
import { useLasting } from '../parts/lasting';

/** How a line is inked: `nudged`, where its points lie otherwise than in the file. */
export type Way = { course: string; reversed: boolean; factor: number; brush: string; tapers?: Tapers; nudged?: number[][] };
export type Line = Schemas['PathLine'] & Way;
type Kept = {
  name: string;
  view: Omit<Schemas['PathsView'], 'lines'> | null;
  lines: Line[];
  past: Way[][];
  next: Way[][];
  scale: number;
  weightScales: boolean;
};

const NOTHING: Kept = { name: '', view: null, lines: [], past: [], next: [], scale: 1, weightScales: false };
const MOST_STEPS = 60;
const waysOf = (lines: Line[]): Way[] =>
  lines.map(({ course, reversed, factor, brush, tapers, nudged }) => ({ course, reversed, factor, brush, tapers, nudged }));
/** Where a line lies now. */
export const placesOf = (l: Line) => l.nudged ?? l.points;

export function usePaths() {
  const [kept, setKept] = useLasting<Kept>('paths', NOTHING);
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  // A pull is one step back, however many changes it makes on its way.
  const pulled = useRef(false);
  const { lines, past, next } = kept;
  const go = (from: Way[][], onto: 'past' | 'next') => {
    const to = onto === 'next' ? from[from.length - 1] : from[0];
    if (!to) return;
    setKept((k) => ({
      ...k,
      past: onto === 'next' ? k.past.slice(0, -1) : [...k.past, waysOf(k.lines)],
      next: onto === 'next' ? [waysOf(k.lines), ...k.next] : k.next.slice(1),
      lines: k.lines.map((l, i) => ({ ...l, ...to[i] })),
    }));
  };
  return {
    ...kept,
    chosen,
    setChosen,
    open: (name: string, view: Schemas['PathsView'], brush: string) => {
      const { lines: read, ...rest } = view;
      setKept({ ...NOTHING, name, view: rest, lines: read.map((l) => ({ ...l, course: 'swell', reversed: false, factor: 1, brush })) });
      setChosen(new Set());
    },
    /** Changes how the chosen lines are inked. */
    set: (v: Partial<Way> | ((l: Line) => Partial<Way>), done = true) => {
      const step = !pulled.current;
      pulled.current = !done;
      setKept((k) => ({
        ...k,
        past: step ? [...k.past.slice(1 - MOST_STEPS), waysOf(k.lines)] : k.past,
        next: [],
        lines: k.lines.map((l, i) => (chosen.has(i) ? { ...l, ...(typeof v === 'function' ? v(l) : v) } : l)),
      }));
    },
    setScale: (scale: number) => setKept((k) => ({ ...k, scale })),
    setWeightScales: (weightScales: boolean) => setKept((k) => ({ ...k, weightScales })),
    undo: () => go(past, 'next'),
    redo: () => go(next, 'past'),
    canUndo: past.length > 0,
    canRedo: next.length > 0,
    picked: lines.filter((_, i) => chosen.has(i)),
  };
}
