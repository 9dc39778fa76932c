// A brush ready to ink, made anew where brush or response change; what cannot be inked says why.
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { type Engine, loadEngine, makeEngine, type Samples } from './engine';
import type { Drawn } from './tiles';

export function useEngine(brush: Schemas['Brush'] | null | undefined, response: number[][] | null | undefined) {
  const [made, setMade] = useState<{ engine: Engine | null; cannot: string }>({ engine: null, cannot: '' });
  useEffect(() => {
    if (!brush) return setMade({ engine: null, cannot: '' });
    let gone = false;
    loadEngine().then(() => {
      if (gone) return;
      try {
        setMade({ engine: makeEngine(brush, response), cannot: '' });
      } catch (e) {
        // The ink that was there stays: nothing vanishes for a number that is being typed.
        setMade((was) => ({ ...was, cannot: e instanceof Error ? e.message : String(e) }));
      }
    });
    return () => {
      gone = true;
    };
  }, [brush, response]);
  return made;
}

let made = 0;
const names = new WeakMap<object, number>();
/** A name of an object for as long as it lives. */
function nameOf(o: object) {
  let n = names.get(o);
  if (n === undefined) {
    n = ++made;
    names.set(o, n);
  }
  return n;
}

/** Strokes as an engine inks them; a stroke keeps its key for as long as it and its engine are the same. */
export function drawnBy(engine: Engine | null, strokes: Samples[], colour: string): Drawn[] {
  if (!engine) return [];
  return strokes.map((samples) => ({ key: `${nameOf(engine)}|${nameOf(samples)}|${colour}`, engine, samples, colour }));
}
