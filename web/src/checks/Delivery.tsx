// A delivery: frame lanes above, the drawing with its findings below, decided on drawing by drawing or many at once.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { Button, Dropdown } from 'react-bootstrap';
import { useDropzone } from 'react-dropzone';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, type Schemas, sendFiles, take } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { useKeys } from '../parts/keys';
import { otherSide } from '../parts/stale';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { DrawingDesk } from './DrawingDesk';
import { FrameLanes, type Span } from './FrameLanes';
import { HowKnown, type OtherNaming } from './HowKnown';
import { Playback } from './Playback';

type Progress = { waiting: number; done: number; failed: number; stopped: boolean };
type Summary = Schemas['DrawingSummary'];
/** A decision, and what each drawing was before it. */
type Done = { says: string; back: { id: string; state: string; note: string }[] };
/** Pages of a delivery are fetched anew at most this often while it is weighed, ms. */
const EVERY_MS = 1500;
/** A playback without a span shows so many drawings at most. */
const MOST_PLAYED = 120;

export function Delivery() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const may = useMayChange();
  const lead = production.part === 'lead';
  const client = useQueryClient();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [progress, setProgress] = useState<Progress | null>(null);
  const deciding = useRef(false);
  const [tries, setTries] = useState(0);
  const [span, setSpan] = useState<Span | null>(null);
  const [playing, setPlaying] = useState(false);
  const [naming, setNaming] = useState(false);
  const [more, setMore] = useState(false);
  // What was decided since the page was opened, the last one last: each can be undone.
  const [done, setDone] = useState<Done[]>([]);
  const [told, setTold] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const params = { path: { production: production.id, id } };
  const base = `/api/v1/productions/${production.id}`;
  const delivery = useQuery({ queryKey: ['delivery', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/deliveries/{id}', { params })) });
  const drawings = delivery.data?.drawings ?? [];
  const stopped = delivery.data?.stopped ?? false;
  const busy = !stopped && (drawings.some((d) => d.standing === 'waiting') || (delivery.data?.sequence == null && drawings.some((d) => d.summary)));

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
    // The server ends the stream when all is weighed, or stopped. If it went away, it is asked again in a while.
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

  const first = drawings.find((d) => d.standing === 'goes-back') ?? drawings.find((d) => d.standing === 'may-go-on' || d.standing === 'open') ?? drawings[0];
  const selected = search.get('drawing') ?? first?.id ?? null;
  const index = drawings.findIndex((d) => d.id === selected);
  const select = useCallback(
    (d: string | undefined) => {
      if (d) setSearch({ drawing: d }, { replace: true });
    },
    [setSearch],
  );
  // The drawing that is looked at stays, whatever is decided on it.
  const firstId = search.get('drawing') ? undefined : first?.id;
  useEffect(() => select(firstId), [firstId, select]);
  const frames = delivery.data?.drawings;
  const selectAt = useCallback((i: number) => select(frames?.[i]?.id), [select, frames]);
  const drop = useDropzone({
    noClick: drawings.length > 0,
    noKeyboard: drawings.length > 0,
    disabled: !may,
    onDrop: async (files) => {
      try {
        setError(null);
        for (let i = 0; i < files.length; i += 6) await sendFiles(`${base}/deliveries/${id}/drawings`, files.slice(i, i + 6));
        await client.invalidateQueries({ queryKey: ['delivery', id] });
      } catch (e) {
        setError(e);
      }
    },
  });

  const act = useCallback(
    async (what: () => Promise<unknown>) => {
      setError(null);
      try {
        await what();
        return true;
      } catch (e) {
        setError(e);
        return false;
      } finally {
        await Promise.all([
          client.invalidateQueries({ queryKey: ['delivery', id] }),
          client.invalidateQueries({ queryKey: ['drawing'] }),
          client.invalidateQueries({ queryKey: ['deliveries'] }),
        ]);
      }
    },
    [client, id],
  );
  const decide = useCallback(
    async (of: Summary[], state: 'ready' | 'return' | 'open', note = '', strokes: [number, number][][] = [], undoing = false) => {
      // A second click while the first is on its way decides nothing.
      if (deciding.current) return false;
      deciding.current = true;
      const seen = of.map((d) => ({ id: d.id, seen: d.decision?.number ?? 0 }));
      const fine = await act(() =>
        take(
          api.POST('/api/v1/productions/{production}/deliveries/{id}/decisions', {
            params: { path: { production: production.id, id } },
            body: { drawings: seen, state, note, strokes },
          }),
        ),
      );
      deciding.current = false;
      const words = { ready: 'marked as ready', return: 'returned', open: 'undecided again' };
      const n = of.length === 1 ? '1 drawing' : `${of.length} drawings`;
      if (fine && !undoing) {
        const back = of.map((d) => ({ id: d.id, state: d.decision?.state ?? 'open', note: d.decision?.note ?? '' }));
        setDone((all) => [...all, { says: `${n} ${words[state]}`, back }]);
        setTold(true);
      }
      return fine;
    },
    [act, production.id, id],
  );

  const last = done[done.length - 1];
  /** Each drawing is again what it was before the last decision. */
  const undo = async () => {
    if (!last) return;
    for (const state of ['open', 'ready', 'return'] as const) {
      const groups = new Map<string, Summary[]>();
      for (const b of last.back) {
        const d = drawings.find((x) => x.id === b.id);
        if (d && b.state === state) groups.set(b.note, [...(groups.get(b.note) ?? []), d]);
      }
      for (const [note, of] of groups) if (!(await decide(of, state, note, [], true))) return;
    }
    setDone(done.slice(0, -1));
    setTold(false);
  };
  const undecided = (d: Summary) => ['may-go-on', 'open', 'goes-back'].includes(d.standing);
  useKeys({
    u: () => select([...drawings.slice(index + 1), ...drawings.slice(0, index + 1)].find(undecided)?.id),
    g: () => setPlaying(!playing),
    undo: last && lead ? () => void undo() : undefined,
  });

  if (delivery.isLoading) return <Loading what="the delivery" />;
  if (!delivery.data)
    return (
      <div className="page">
        <Problem error={delivery.error} />
      </div>
    );
  const d = delivery.data;
  const ready = drawings.filter((x) => x.standing === 'may-go-on');
  const failed = drawings.filter((x) => x.standing === 'failed');
  const artists = [...new Set(drawings.map((x) => x.manifest.artist).filter(Boolean))];
  const total = progress ? progress.waiting + progress.done + progress.failed : 0;
  const [lo, hi] = span ? [Math.min(...span), Math.max(...span)] : [0, -1];
  const spanned = span ? drawings.slice(lo, hi + 1) : [];
  const open = spanned.filter(undecided);
  const held = drawings.filter((x) => x.standing === 'waiting').length;
  const near = Math.max(0, Math.min(drawings.length - MOST_PLAYED, index - MOST_PLAYED / 2));
  const played = (span ? spanned : drawings.slice(near, near + MOST_PLAYED)).filter((x) => x.summary);
  const sequence = d.sequence ?? [];
  const name = (x: Summary | undefined) => x?.manifest.drawing ?? x?.file ?? '';
  return (
    <div className="page" {...(drawings.length ? drop.getRootProps() : {})}>
      <Head
        title={d.name}
        says={
          <>
            {drawings.length} drawings{artists.length ? ` by ${artists.slice(0, 6).join(', ')}` : ', artists not known'} · checked against {d.guide.name},
            version {d.guide_version}
            {lead && d.current_guide_version > d.guide_version && (
              <>
                {' '}
                ·{' '}
                <button
                  type="button"
                  className="btn-word"
                  onClick={() => act(() => take(api.POST('/api/v1/productions/{production}/deliveries/{id}/check', { params })))}
                >
                  Check again with version {d.current_guide_version}
                </button>
              </>
            )}
          </>
        }
        state={
          <>
            <b>{d.headline}</b>
            <div className="soft">{d.summary}</div>
          </>
        }
      >
        <Dropdown>
          <Dropdown.Toggle variant="paper">Download</Dropdown.Toggle>
          <Dropdown.Menu>
            {(
              [
                ['line-check', 'Findings as JSON', 'line-check.json'],
                ['out/findings.csv', 'Findings as CSV', 'findings.csv'],
                ['out/overlays-svg.zip', 'Overlays of all as SVG', 'overlays-svg.zip'],
                ['out/overlays-png.zip', 'Overlays of all as PNG', 'overlays-png.zip'],
              ] as const
            ).map(([what, says, file]) => (
              <Dropdown.Item key={what} href={`${base}/deliveries/${id}/${what}`} download={file}>
                {says}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
        {may && (
          <Button variant="paper" onClick={() => setNaming(!naming)}>
            Names and manifest
          </Button>
        )}
        {lead && ready.length > 0 && <Button onClick={() => decide(ready, 'ready')}>Mark {ready.length} as ready</Button>}
      </Head>
      <Problem error={error} />
      {told && last && (
        <div className="notice d-flex gap-3" role="status">
          {last.says}
          <button type="button" className="btn-word" title="Ctrl Z" onClick={() => void undo()}>
            Undo
          </button>
          <button type="button" className="btn-word" onClick={() => setTold(false)}>
            Dismiss message
          </button>
        </div>
      )}
      {(progress && total > 0 && progress.waiting > 0) || stopped ? (
        <div className="card-plain mb-2 d-flex gap-3 align-items-center" role="status">
          <span className="tight text-nowrap">
            {stopped
              ? `Stopped: ${held === 1 ? '1 drawing waits' : `${held} drawings wait`}`
              : `${(progress?.done ?? 0) + (progress?.failed ?? 0)} of ${total} measured, ${progress?.waiting} left`}
          </span>
          {!stopped && <progress value={(progress?.done ?? 0) + (progress?.failed ?? 0)} max={total || 1} style={{ flex: 1 }} />}
          {may && (
            <button
              type="button"
              className="btn-word"
              onClick={() =>
                act(() =>
                  stopped
                    ? take(api.POST('/api/v1/productions/{production}/deliveries/{id}/go-on', { params }))
                    : take(api.POST('/api/v1/productions/{production}/deliveries/{id}/stop', { params })),
                )
              }
            >
              {stopped ? 'Resume check' : 'Stop check'}
            </button>
          )}
        </div>
      ) : null}
      {naming && (
        <HowKnown
          files={drawings.map((x) => x.file)}
          pattern={d.pattern}
          version={d.manifest_version}
          onSet={async (k, from) => {
            let other: OtherNaming | null = null;
            const put = () =>
              take(api.PUT('/api/v1/productions/{production}/deliveries/{id}/manifest', { params, body: { ...k, from_version: from } })).catch((e) => {
                other = otherSide<OtherNaming>(e);
                if (!other) throw e;
              });
            if ((await act(put)) && !other) setNaming(false);
            return other;
          }}
          onTheirs={() => setNaming(false)}
        />
      )}
      {drawings.length === 0 ? (
        <Empty title="No drawings in this delivery">
          <div {...drop.getRootProps({ className: 'drop mt-2' })}>
            <input {...drop.getInputProps()} aria-label="drawings" />
            Drop drawings here
          </div>
        </Empty>
      ) : (
        <>
          {(sequence.length > 0 || d.missing.length > 0) && (
            <div className="mb-2" style={{ lineHeight: 1.3 }}>
              {sequence.slice(0, more ? sequence.length : 1).map((f, i) => (
                <span key={`${f.kind} ${f.role} ${f.artist}`} style={{ display: more || i ? 'block' : 'inline' }}>
                  <b>{f.message}</b>{' '}
                </span>
              ))}
              {(sequence.length > 1 || d.missing.length > 0) && (
                <button type="button" className="btn-word" aria-expanded={more} onClick={() => setMore(!more)}>
                  {more
                    ? 'Show less'
                    : [
                        sequence.length > 1 ? `${sequence.length - 1} more that only the sequence shows` : '',
                        d.missing.length ? `${d.missing.length} ${d.missing.length === 1 ? 'thing is' : 'things are'} missing` : '',
                      ]
                        .filter(Boolean)
                        .join(' · ')}
                </button>
              )}
              {more &&
                d.missing.map((m) => (
                  <div key={m} className="tight" style={{ color: 'var(--warn)' }}>
                    {m}
                  </div>
                ))}
            </div>
          )}
          <FrameLanes delivery={d} selected={index} span={span} onSelect={selectAt} onSpan={setSpan} />
          <div className="d-flex gap-3 align-items-center tight py-1">
            {span ? (
              <>
                <b>
                  {spanned.length} drawings, {name(spanned[0])} to {name(spanned[spanned.length - 1])}
                </b>
                {lead && open.length > 0 && (
                  <button type="button" className="btn-word" onClick={() => decide(open, 'ready')}>
                    Mark {open.length} as ready
                  </button>
                )}
                <button type="button" className="btn-word" onClick={() => setSpan(null)}>
                  Clear span
                </button>
              </>
            ) : (
              <span className="soft">Drag over the lanes for a span · ← → drawing</span>
            )}
            {(playing || played.length > 1) && (
              <button type="button" className="btn-word" title="g" aria-pressed={playing} onClick={() => setPlaying(!playing)}>
                {playing ? 'Back to the drawing' : span ? 'Play the span' : `Play ${played.length} drawings`}
              </button>
            )}
          </div>
          {failed.map((f) => (
            <div key={f.id} className="stop tight">
              {f.file}: {f.message}
            </div>
          ))}
          {playing && played.length > 0 ? (
            <div className="lanes">
              <Playback
                drawings={played}
                production={production.id}
                rate={d.guide.page.rate_fps ?? 24}
                onShown={(shown) => {
                  setPlaying(false);
                  select(shown);
                }}
              />
            </div>
          ) : (
            drawings[index] && (
              <DrawingDesk
                key={selected}
                delivery={d}
                row={drawings[index]}
                before={drawings[index - 1]}
                after={drawings[index + 1]}
                onDecide={(state, note, strokes) => decide([drawings[index] as Summary], state, note, strokes)}
                act={act}
                onGo={(by) => select(drawings[index + by]?.id)}
                onInkAgain={(trial) => navigate(`/brushes/trials/${trial}`)}
              />
            )
          )}
        </>
      )}
      <div className="mt-3">
        <ArchiveIt kind="deliveries" id={d.id} name={d.name} />
      </div>
    </div>
  );
}
