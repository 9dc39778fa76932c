// One piece of work at a time: what is being done, and why it failed.
import { useState } from 'react';

export function useWork() {
  const [busy, setBusy] = useState('');
  const [error, setError] = useState<unknown>(null);
  const work = async (what: string, f: () => Promise<void>) => {
    setBusy(what);
    setError(null);
    try {
      await f();
    } catch (e) {
      setError(e);
    } finally {
      setBusy('');
    }
  };
  return { busy, error, setError, work };
}
