// Leaving a page within a moment of an edit loses nothing: what was about to be sent is sent, or kept by the browser until the page is back.
import { useEffect, useRef } from 'react';
import { strokesInAir } from '../engine/useInAir';

/**
 * `pending` is what would be sent now, null where nothing waits. Leaving within the program sends it; closing or reloading the page, which
 * ends requests, lays it down under `name`, where `left` finds it.
 */
export function useLeaving<T>(name: string, pending: T | null, send: (what: T) => void) {
  const now = useRef({ name, pending, send });
  now.current = { name, pending, send };
  useEffect(() => {
    const hide = () => {
      for (const lift of strokesInAir) lift();
      const { name, pending } = now.current;
      if (pending === null) return;
      try {
        localStorage.setItem(`left.${name}`, JSON.stringify(pending));
      } catch {
        // More than the browser keeps: the request that is on its way may still arrive.
        now.current.send(pending);
      }
    };
    window.addEventListener('pagehide', hide);
    return () => {
      window.removeEventListener('pagehide', hide);
      if (now.current.pending !== null) now.current.send(now.current.pending);
    };
  }, []);
}

/** What was laid down when the page was closed; it is given once. */
export function left<T>(name: string): T | null {
  const text = localStorage.getItem(`left.${name}`);
  if (text === null) return null;
  localStorage.removeItem(`left.${name}`);
  try {
    return JSON.parse(text) as T;
  } catch {
    return null;
  }
}
