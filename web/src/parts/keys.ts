// Keys of a page. None acts while a field has the focus; those of a single character can be switched off (WCAG 2.1.4).
import { useEffect, useRef } from 'react';

const OFF = 'eddymist.single-keys';
export const singleKeys = () => localStorage.getItem(OFF) !== 'off';
export const setSingleKeys = (on: boolean) => localStorage.setItem(OFF, on ? 'on' : 'off');

const FIELDS = ['INPUT', 'SELECT', 'TEXTAREA'];

/** Acts by key, in lower case; `undo` and `redo` are the system's own. What a part of the page took already is not taken again. */
export function useKeys(acts: Record<string, (() => void) | undefined>) {
  const now = useRef(acts);
  now.current = acts;
  useEffect(() => {
    const on = (e: KeyboardEvent) => {
      const at = e.target as HTMLElement;
      if (e.defaultPrevented || FIELDS.includes(at.tagName) || at.isContentEditable) return;
      const system = (e.ctrlKey || e.metaKey) && !e.altKey && e.key.toLowerCase() === 'z' ? (e.shiftKey ? 'redo' : 'undo') : null;
      if (!system && (e.ctrlKey || e.metaKey || e.altKey)) return;
      const name = system ?? e.key.toLowerCase();
      if (!system && e.key.length === 1 && !singleKeys()) return;
      const act = now.current[name];
      if (!act) return;
      e.preventDefault();
      act();
    };
    window.addEventListener('keydown', on);
    return () => window.removeEventListener('keydown', on);
  }, []);
}
