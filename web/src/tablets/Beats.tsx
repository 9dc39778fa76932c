// A beat to draw to, seen and heard: the sampler sheet's sixty a minute, or another.
import { useEffect, useState } from 'react';
import { Form } from 'react-bootstrap';
import { useLasting } from '../parts/lasting';
import { BAR, beatAt, LEAST, MOST, SHEETS } from './beats';

/** A short tick; the first of a bar is higher. Without sound the lamps tell the beat alone. */
function tick(audio: AudioContext, first: boolean) {
  const [tone, level, now] = [audio.createOscillator(), audio.createGain(), audio.currentTime];
  tone.frequency.value = first ? 1320 : 880;
  level.gain.setValueAtTime(0.2, now);
  level.gain.exponentialRampToValueAtTime(0.001, now + 0.05);
  tone.connect(level).connect(audio.destination);
  tone.start(now);
  tone.stop(now + 0.06);
}

export function Beats() {
  const [perMinute, setPerMinute] = useLasting('beats-per-minute', SHEETS);
  const [on, setOn] = useState(false);
  const [beat, setBeat] = useState(0);
  useEffect(() => {
    if (!on) return;
    const audio = typeof AudioContext === 'undefined' ? null : new AudioContext();
    const start = performance.now();
    let timer = 0;
    const go = () => {
      const { beat: now, left } = beatAt(performance.now() - start, perMinute);
      setBeat(now);
      if (audio) tick(audio, now === 0);
      timer = window.setTimeout(go, left + 1);
    };
    go();
    return () => {
      window.clearTimeout(timer);
      void audio?.close();
    };
  }, [on, perMinute]);
  return (
    <span className="beats">
      <Form.Check type="switch" role="switch" id="beats" label="Beats" checked={on} onChange={(e) => setOn(e.target.checked)} />
      <span className="rate">
        <Form.Control
          type="number"
          size="sm"
          aria-label="beats a minute"
          min={LEAST}
          max={MOST}
          value={perMinute}
          onChange={(e) => setPerMinute(Math.min(Number(e.target.value), MOST))}
        />
        a minute
      </span>
      {on && (
        <span className="lamps" role="img" aria-label={`beat ${beat + 1} of ${BAR}`}>
          {Array.from({ length: BAR }, (_, k) => (
            <i key={k} className={k === beat ? 'lit' : ''} />
          ))}
        </span>
      )}
    </span>
  );
}
