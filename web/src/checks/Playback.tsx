// Drawings played back at the production's rate, each held for its exposures, with the findings on them.
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { pictureUrl } from '../parts/picture';

type Frame = { d: Schemas['DrawingSummary']; picture: HTMLImageElement; findings: Schemas['Finding'][] };

export function Playback({
  drawings,
  production,
  rate,
  onShown,
}: {
  drawings: Schemas['DrawingSummary'][];
  production: string;
  rate: number;
  onShown: (id: string) => void;
}) {
  const client = useQueryClient();
  const canvas = useRef<HTMLCanvasElement>(null);
  const frames = useRef<Frame[]>([]);
  const [ready, setReady] = useState(0);
  const [playing, setPlaying] = useState(true);
  const [at, setAt] = useState(0);
  const [pins, setPins] = useState(true);
  const base = `/api/v1/productions/${production}`;
  const ids = drawings.map((d) => d.id).join(' ');

  // Pictures and findings are fetched first: playback does not stutter for want of them.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the drawings' ids say when they are others
  useEffect(() => {
    let gone = false;
    frames.current = [];
    setReady(0);
    setAt(0);
    void (async () => {
      for (const d of drawings) {
        const picture = new Image();
        picture.src = pictureUrl(base, d.sha256, d.file);
        const view = await client
          .fetchQuery({
            queryKey: ['drawing', d.id],
            staleTime: 60_000,
            queryFn: () => take(api.GET('/api/v1/productions/{production}/drawings/{id}', { params: { path: { production, id: d.id } } })),
          })
          .catch(() => null);
        await picture.decode().catch(() => undefined);
        if (gone) return;
        frames.current.push({ d, picture, findings: (view?.check?.findings ?? []).filter((f) => !f.dismissed) });
        setReady((r) => r + 1);
      }
    })();
    return () => {
      gone = true;
    };
  }, [ids]);

  const whole = ready === drawings.length;
  const draw = useCallback(
    (k: number) => {
      const f = frames.current[k];
      const c = canvas.current?.getContext('2d');
      if (!f || !c || !canvas.current || !f.picture.naturalWidth) return;
      const { width, height } = canvas.current;
      c.fillStyle = '#fff';
      c.fillRect(0, 0, width, height);
      const s = Math.min(width / f.picture.naturalWidth, height / f.picture.naturalHeight);
      c.drawImage(f.picture, 0, 0, f.picture.naturalWidth * s, f.picture.naturalHeight * s);
      if (!pins) return;
      for (const p of f.findings) {
        c.beginPath();
        c.arc(p.x * s, p.y * s, p.must_mend ? 9 : 5, 0, 7);
        c.strokeStyle = p.kind === 'thin' ? '#2866b1' : p.kind === 'heavy' ? '#a8400f' : '#16202b';
        c.lineWidth = p.must_mend ? 3 : 1.5;
        c.stroke();
      }
    },
    [pins],
  );
  useEffect(() => {
    if (!whole || !playing) return;
    const held = Math.max(1, Number(frames.current[at]?.d.manifest.exposure) || 1);
    const timer = setTimeout(() => setAt((a) => (a + 1) % drawings.length), (1000 * held) / rate);
    return () => clearTimeout(timer);
  }, [whole, playing, at, rate, drawings.length]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the first picture is drawn once all are there
  useEffect(() => draw(at), [at, draw, whole]);
  const step = (by: number) => {
    setPlaying(false);
    setAt((a) => (a + by + drawings.length) % drawings.length);
  };
  const now = frames.current[at]?.d;
  return (
    <section aria-label="playback">
      <canvas
        ref={canvas}
        width={1280}
        height={720}
        style={{ width: '100%', maxHeight: 500, objectFit: 'contain', display: 'block', background: 'var(--paper)' }}
      />
      <div className="d-flex gap-3 align-items-center px-3 py-2 tight" style={{ borderTop: '1px solid var(--hairline)' }}>
        {whole ? (
          <>
            <button type="button" className="btn-word" onClick={() => setPlaying(!playing)}>
              {playing ? 'Pause' : 'Play'}
            </button>
            <button type="button" className="btn-word" onClick={() => step(-1)}>
              Previous frame
            </button>
            <button type="button" className="btn-word" onClick={() => step(1)}>
              Next frame
            </button>
            <input
              type="range"
              aria-label="drawing shown"
              min={0}
              max={drawings.length - 1}
              value={at}
              style={{ flex: 1 }}
              onChange={(e) => {
                setPlaying(false);
                setAt(Number(e.target.value));
              }}
            />
            <span className="text-nowrap">
              {now?.manifest.drawing ?? at + 1} · {at + 1} of {drawings.length} · {rate} fps
            </span>
            <label className="text-nowrap">
              <input type="checkbox" checked={pins} onChange={(e) => setPins(e.target.checked)} /> findings
            </label>
            <button type="button" className="btn-word" onClick={() => now && onShown(now.id)}>
              Open this drawing
            </button>
          </>
        ) : (
          <>
            <span role="status">
              {ready} of {drawings.length} drawings fetched
            </span>
            <progress value={ready} max={drawings.length} style={{ flex: 1 }} />
          </>
        )}
      </div>
    </section>
  );
}
