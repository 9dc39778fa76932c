// State that outlives a reload: kept in this browser's own database, by member and page, until it is thirty days old.
import { del, entries, get, set } from 'idb-keyval';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useOpen } from '../session';

type Kept<T> = { at: number; value: T };
const OLD_MS = 30 * 86_400_000;
let swept = false;

/** Throws away, once a visit, what nobody came back to. */
async function sweep() {
  if (swept) return;
  swept = true;
  for (const [key, kept] of await entries<string, Kept<unknown>>()) if (Date.now() - (kept?.at ?? 0) > OLD_MS) await del(key);
}

/**
 * Like `useState`, and it is there again after a reload. The third says whether what was kept has been read: before that, nothing is written.
 * Where the browser keeps nothing (a private window), it is plain state.
 */
export function useLasting<T>(name: string, initial: T): [T, (to: T | ((now: T) => T)) => void, boolean] {
  const { session, production } = useOpen();
  const key = `${session.member?.id}/${production.id}/${name}`;
  const [state, setState] = useState<{ key: string; value: T; read: boolean }>({ key, value: initial, read: false });
  const first = useRef(initial);
  const touched = useRef(false);
  const current = state.key === key ? state : { key, value: first.current, read: false };
  useEffect(() => {
    let gone = false;
    touched.current = false;
    void sweep().catch(() => undefined);
    // Where there is no such database, asking throws at once.
    Promise.resolve()
      .then(() => get<Kept<T>>(key))
      .catch(() => undefined)
      .then((kept) => {
        // What was done while it was being read is newer.
        if (!gone) setState((now) => ({ key, value: touched.current && now.key === key ? now.value : (kept?.value ?? first.current), read: true }));
      });
    return () => {
      gone = true;
    };
  }, [key]);
  const put = useCallback(
    (to: T | ((now: T) => T)) => {
      touched.current = true;
      setState((now) => {
        const was = now.key === key ? now.value : first.current;
        const value = typeof to === 'function' ? (to as (now: T) => T)(was) : to;
        void Promise.resolve()
          .then(() => (value === first.current ? del(key) : set(key, { at: Date.now(), value })))
          .catch(() => undefined);
        return { key, value, read: now.key === key && now.read };
      });
    },
    [key],
  );
  return [current.value, put, current.read];
}
