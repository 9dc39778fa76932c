// How far a delivery is measured, told by the server as it happens; its page is fetched anew on the way.
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

export type Progress = { waiting: number; done: number; failed: number; stopped: boolean };
/** Pages of a delivery are fetched anew at most this often while it is measured, ms. */
const EVERY_MS = 1500;

export function useProgress(base: string, id: string, busy: boolean) {
  const client = useQueryClient();
  const [progress, setProgress] = useState<Progress | null>(null);
  const [tries, setTries] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each try is a reason of its own
  useEffect(() => {
    if (!busy) return;
    const source = new EventSource(`${base}/deliveries/${id}/progress`);
    let seen = -1;
    let last = 0;
    source.onmessage = (e) => {
      const p = JSON.parse(e.data) as Progress;
      setProgress(p);
      if (p.done + p.failed !== seen && Date.now() - last > EVERY_MS) {
        last = Date.now();
        seen = p.done + p.failed;
        void client.invalidateQueries({ queryKey: ['delivery', id] });
      }
    };
    // The server ends the stream when all is measured, or stopped. If it went away, it is asked again in a while.
    let timer = 0;
    source.onerror = () => {
      source.close();
      setProgress(null);
      void client.invalidateQueries({ queryKey: ['delivery', id] });
      void client.invalidateQueries({ queryKey: ['deliveries'] });
      timer = window.setTimeout(() => setTries((t) => t + 1), 2500);
    };
    return () => {
      clearTimeout(timer);
      source.close();
    };
  }, [busy, tries, base, id, client]);
  return progress;
}
