// A note that is being written on a drawing, with what is drawn beside it: not lost by leaving.
import { useEffect, useState } from 'react';
import type { Points } from './region';

export function useNote(drawing: string) {
  const draft = `note-${drawing}`;
  const kept = (): { text: string; strokes: Points[] } | null => JSON.parse(sessionStorage.getItem(draft) ?? 'null');
  const [note, setText] = useState<string | null>(() => kept()?.text ?? null);
  const [strokes, setStrokes] = useState<Points[]>(() => kept()?.strokes ?? []);
  useEffect(() => {
    if (note === null) sessionStorage.removeItem(draft);
    else sessionStorage.setItem(draft, JSON.stringify({ text: note, strokes }));
  }, [note, strokes, draft]);
  const setNote = (text: string | null) => {
    setText(text);
    if (text === null) setStrokes([]);
  };
  return { note, setNote, strokes, setStrokes };
}
