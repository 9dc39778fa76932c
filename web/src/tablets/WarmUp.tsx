// The warm-up: one instruction at a time; a real stylus, a simulated one, or an InkML file. Strokes outlast a reload.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { Button, Form } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import type { Samples } from '../engine/engine';
import { Sheet } from '../engine/Sheet';
import { drawnBy, useEngine } from '../engine/useEngine';
import { Head, Problem } from '../parts/states';
import { useWork } from '../parts/useWork';
import { useOpen } from '../session';
import { ProfileFigures, Response } from './Response';
import { guides, PLAIN_BRUSH, STEPS, whatIsWrong } from './warmUpSteps';

const HEIGHT = 340;
const NO_STROKES: Samples[] = [];

function useKept<T>(key: string, start: T) {
  const [value, setValue] = useState<T>(() => {
    try {
      return JSON.parse(localStorage.getItem(key) ?? '') as T;
    } catch {
      return start;
    }
  });
  useEffect(() => localStorage.setItem(key, JSON.stringify(value)), [key, value]);
  return [value, setValue] as const;
}

export function WarmUp() {
  const { production, session } = useOpen();
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const navigate = useNavigate();
  const standIns = useQuery({ queryKey: ['stand-ins', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/stand-ins', { params })) });
  const [stored, setStrokes] = useKept<Samples[][]>(
    `warm-up-${production.id}`,
    STEPS.map(() => []),
  );
  const strokes = STEPS.map((_, i) => stored[i] ?? []);
  const [artist, setArtist] = useState(session.member?.name ?? '');
  const [tablet, setTablet] = useState('');
  const [hand, setHand] = useState('steady');
  const [device, setDevice] = useState('display-16');
  const [reading, setReading] = useState<Schemas['ProfileReading'] | null>(null);
  const [pressure, setPressure] = useState<number | null | undefined>(undefined);
  const { busy, error, setError, work } = useWork();
  const { engine } = useEngine(PLAIN_BRUSH, null);

  const [skipped, setSkipped] = useKept<number[]>(`warm-up-skipped-${production.id}`, []);
  const at = STEPS.findIndex((s, i) => (strokes[i]?.length ?? 0) < s.count && !skipped.includes(i));
  const enough = STEPS.every((s, i) => !s.needed || (strokes[i]?.length ?? 0) >= s.count);
  const step = STEPS[at];
  const drawn = stored[at] ?? NO_STROKES;
  const shown = useMemo(() => drawnBy(engine, drawn, '#16202b'), [engine, drawn]);
  const read = () =>
    work('working', async () => {
      const clean = (s: Samples) => s.map((v) => (Number.isFinite(v) ? v : null));
      const groups = STEPS.map((s, i) => ({ exercise: s.exercise, effort: s.effort, pace: s.pace, strokes: (strokes[i] ?? []).map(clean) }));
      setReading(await take(api.POST('/api/v1/productions/{production}/warm-ups/strokes', { params, body: { label: tablet || 'tablet', groups } })));
    });
  const simulate = () =>
    work('working', async () => {
      setReading(await take(api.POST('/api/v1/productions/{production}/stand-ins/warm-up', { params, body: { hand, tablet: device } })));
      setTablet(standIns.data?.tablets.find((t) => t.id === device)?.name ?? device);
    });
  const count = (slips_counted: boolean) =>
    work('working', async () => {
      if (!reading) return;
      const body = { inkml: reading.inkml, label: reading.profile.label, slips_counted };
      setReading(await take(api.POST('/api/v1/productions/{production}/warm-ups', { params, body })));
    });
  const keep = () =>
    work('working', async () => {
      if (!reading) return;
      const made = await take(api.POST('/api/v1/productions/{production}/profiles', { params, body: { artist, tablet, inkml: reading.inkml } }));
      setStrokes(STEPS.map(() => []));
      setSkipped([]);
      await client.invalidateQueries();
      navigate(`/tablets/${made.id}`);
    });
  const drop = useDropzone({
    multiple: false,
    onDrop: (files) =>
      work('working', async () => {
        const f = files[0];
        if (f) setReading(await take(api.POST('/api/v1/productions/{production}/warm-ups', { params, body: { inkml: await f.text(), label: f.name } })));
      }),
  });
  const guide = useCallback(
    (c: CanvasRenderingContext2D, [width, height]: [number, number]) => {
      c.strokeStyle = '#cfd7d6';
      c.lineWidth = 0.2;
      for (const [x0, y0, x1, y1] of step ? guides(step) : []) {
        c.beginPath();
        c.moveTo(width * x0, height * y0);
        c.lineTo(width * x1, height * y1);
        c.stroke();
      }
    },
    [step],
  );
  const onStroke = (s: Samples) => {
    const wrong = step ? whatIsWrong(step, s) : null;
    if (wrong) {
      setError(new Error(wrong));
      setStrokes(strokes.map((k) => [...k]));
      return;
    }
    setError(null);
    setStrokes(strokes.map((k, i) => (i === at ? [...k, s] : k)));
  };

  return (
    <div className="page">
      <Head
        title={reading ? 'What the warm-up shows' : step ? `${step.title}: ${step.says}` : 'All strokes are drawn'}
        says={
          step && !reading
            ? `${drawn.length} of ${step.count} drawn · step ${at + 1} of ${STEPS.length}${step.needed ? ' · from left to right along the guides' : ' · shows what the device does; can be skipped'}`
            : 'nothing is saved until you save it'
        }
      >
        {!reading && (
          <>
            <Button
              variant="paper"
              disabled={!strokes.some((s) => s.length)}
              onClick={() => {
                const last = strokes.findLastIndex((s) => s.length > 0);
                setStrokes(strokes.map((k, i) => (i === last ? k.slice(0, -1) : k)));
              }}
            >
              Undo last stroke
            </Button>
            {step && !step.needed && (
              <Button variant="paper" onClick={() => setSkipped([...skipped, at])}>
                Skip
              </Button>
            )}
            <Button disabled={!enough || !!busy} onClick={read}>
              Analyse
            </Button>
          </>
        )}
        {reading && (
          <>
            <Form.Group controlId="artist">
              <Form.Label className="mb-0">Whose hand</Form.Label>
              <Form.Control size="sm" value={artist} onChange={(e) => setArtist(e.target.value)} />
            </Form.Group>
            <Form.Group controlId="tablet">
              <Form.Label className="mb-0">On which tablet</Form.Label>
              <Form.Control size="sm" value={tablet} onChange={(e) => setTablet(e.target.value)} />
            </Form.Group>
            <Button variant="paper" onClick={() => setReading(null)}>
              Draw again
            </Button>
            <Button disabled={!!busy} onClick={keep}>
              Save profile
            </Button>
          </>
        )}
      </Head>
      <Problem error={error} />
      {reading ? (
        <div className="d-flex gap-2 flex-wrap">
          <div className="card-plain" style={{ flex: '2 1 480px' }}>
            <h2>Response</h2>
            <div className="soft tight">raw pressure across, effort upward; grey: the pressures that were used; dashed: first ink and full point</div>
            <Response profile={reading.profile} used={reading.used} />
          </div>
          <div className="card-plain" style={{ flex: '1 1 280px' }}>
            <h2>What the device does</h2>
            <ProfileFigures profile={reading.profile} />
            {reading.slips_counted != null && (
              <Button variant="paper" size="sm" className="mt-2" disabled={!!busy} onClick={() => count(!reading.slips_counted)}>
                {reading.slips_counted ? 'Leave what looks like a slip out' : 'Count what looks like a slip'}
              </Button>
            )}
          </div>
        </div>
      ) : (
        <>
          <div className="lanes mb-2">
            <div className="lane">
              <div className="gutter">
                <b>{step?.title ?? 'done'}</b>
                <span>{step?.says}</span>
                <span className="mt-2">
                  {pressure === undefined ? 'pressure shows here' : pressure === null ? 'this device reports no pressure' : `pressure ${pressure.toFixed(3)}`}
                </span>
                <progress value={pressure ?? 0} max={1} style={{ width: '100%' }} aria-label="reported pressure" />
              </div>
              <Sheet fixed height={HEIGHT} engine={engine} strokes={shown} onStroke={onStroke} onReport={setPressure} under={guide} label="warm-up surface" />
            </div>
          </div>
          <ol className="d-flex gap-3 flex-wrap list-unstyled tight mb-2" aria-label="exercises">
            {STEPS.map((s, i) => (
              <li key={s.title} style={{ fontWeight: i === at ? 600 : 400 }} className={i === at ? '' : 'soft'}>
                {s.title} {strokes[i]?.length ?? 0}/{s.count}
                {skipped.includes(i) && ', skipped'}
                {(!!strokes[i]?.length || skipped.includes(i)) && (
                  <button
                    type="button"
                    className="btn-word ms-1"
                    aria-label={`draw ${s.title} again`}
                    onClick={() => {
                      setStrokes(strokes.map((k, j) => (j === i ? [] : k)));
                      setSkipped(skipped.filter((j) => j !== i));
                    }}
                  >
                    again
                  </button>
                )}
              </li>
            ))}
          </ol>
          <div className="d-flex gap-2 flex-wrap">
            <div className="card-plain" style={{ flex: '1 1 380px' }}>
              <h2>Or let the simulated stylus do it</h2>
              <div className="d-flex gap-2 align-items-end mt-1">
                <Form.Group controlId="hand">
                  <Form.Label className="mb-0">Hand</Form.Label>
                  <Form.Select size="sm" value={hand} onChange={(e) => setHand(e.target.value)}>
                    {standIns.data?.hands.map((h) => (
                      <option key={h.id} value={h.id}>
                        {h.name}
                      </option>
                    ))}
                  </Form.Select>
                </Form.Group>
                <Form.Group controlId="device">
                  <Form.Label className="mb-0">Tablet</Form.Label>
                  <Form.Select size="sm" value={device} onChange={(e) => setDevice(e.target.value)}>
                    {standIns.data?.tablets.map((t) => (
                      <option key={t.id} value={t.id}>
                        {t.name}
                      </option>
                    ))}
                  </Form.Select>
                </Form.Group>
                <Button variant="paper" size="sm" disabled={!!busy} onClick={simulate}>
                  Draw for me
                </Button>
              </div>
            </div>
            <div {...drop.getRootProps({ className: `drop ${drop.isDragActive ? 'over' : ''}`, style: { flex: '1 1 300px' } })}>
              <input {...drop.getInputProps()} aria-label="warm-up file" />
              Or drop a warm-up as InkML here
            </div>
          </div>
        </>
      )}
    </div>
  );
}
