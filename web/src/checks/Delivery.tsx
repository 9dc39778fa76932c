// A delivery: frame lanes above, the drawing with its findings below, decided on drawing by drawing or many at once.
import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useState } from 'react';
import { Button } from 'react-bootstrap';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, type Schemas, take, takeAll } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { useKeys } from '../parts/keys';
import { KINDS } from '../parts/picture';
import { otherSide } from '../parts/stale';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';
import { CameIn } from './CameIn';
import { CheckProgress } from './CheckProgress';
import { type Chosen, isSpan } from './chosen';
import { DeliverySays } from './DeliverySays';
import { DownloadMenu } from './DownloadMenu';
import { DrawingDesk } from './DrawingDesk';
import { FailedFiles } from './FailedFiles';
import { FrameLanes } from './FrameLanes';
import { HowKnown, type OtherNaming } from './HowKnown';
import { Playback } from './Playback';
import { Sequence } from './Sequence';
import { SetAside } from './SetAside';
import { SpanBar } from './SpanBar';
import { Told } from './Told';
import { useDecisions } from './useDecisions';
import { useDropped } from './useDropped';
import { useIntended } from './useIntended';
import { useProgress } from './useProgress';

type Summary = Schemas['DrawingSummary'];
const LANES = 'eddymist.lanes';
/** A playback without a span shows so many drawings at most. */
const MOST_PLAYED = 120;

export function Delivery() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const may = useMayChange();
  const lead = production.part === 'lead';
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [playing, setPlaying] = useState(false);
  const [naming, setNaming] = useState(false);
  // The drawing comes first: the lanes are one line of marks until they are wanted, and so they stay on this screen.
  const [folded, setFolded] = useState(() => localStorage.getItem(LANES) !== 'open');
  const fold = (to: boolean) => {
    localStorage.setItem(LANES, to ? 'folded' : 'open');
    setFolded(to);
  };
  const params = { path: { production: production.id, id } };
  const base = `/api/v1/productions/${production.id}`;
  const delivery = useQuery({
    queryKey: ['delivery', id],
    queryFn: async () => {
      const view = await take(api.GET('/api/v1/productions/{production}/deliveries/{id}', { params }));
      if (view.drawings.length === view.in_all) return view;
      const page = (after?: string) => take(api.GET('/api/v1/productions/{production}/deliveries/{id}/drawings', { params: { ...params, query: { after } } }));
      return { ...view, drawings: await takeAll(page, view.drawings) };
    },
  });
  const drawings = delivery.data?.drawings ?? [];
  const stopped = delivery.data?.stopped ?? false;
  const busy = !stopped && (drawings.some((d) => d.standing === 'waiting') || (delivery.data?.sequence == null && drawings.some((d) => d.summary)));
  const progress = useProgress(base, id, busy);
  const { act, decide, setAside, say, undo, last, told, dismiss, error, setError } = useDecisions(production.id, id, drawings);
  const { intend } = useIntended(production.id, id, act, say);

  const first =
    ['goes-back', 'not-checked', 'may-go-on', 'open'].reduce<Summary | undefined>((found, s) => found ?? drawings.find((d) => d.standing === s), undefined) ??
    drawings[0];
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
  const dropped = useDropped(production.id, { url: `${base}/deliveries/${id}`, id, filled: drawings.length > 0, disabled: !may, onError: setError });
  const drop = dropped.zone;

  const undecided = (d: Summary) => ['may-go-on', 'open', 'goes-back', 'not-checked'].includes(d.standing);
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
  const newer = lead && d.current_guide_version > d.guide_version;
  const ready = drawings.filter((x) => x.standing === 'may-go-on');
  const failed = drawings.filter((x) => x.standing === 'failed');
  const returned = [...new Set(drawings.filter((x) => x.standing === 'returned').map((x) => x.manifest.artist || 'artist not known'))];
  const artists = [...new Set(drawings.flatMap((x) => x.manifest.artist || []))];
  const together = (chosen ?? []).flatMap((i) => drawings[i] ?? []);
  const near = Math.max(0, Math.min(drawings.length - MOST_PLAYED, index - MOST_PLAYED / 2));
  const played = (chosen ? together : drawings.slice(near, near + MOST_PLAYED)).filter((x) => x.summary);
  const play = (playing || played.length > 1) && (
    <button
      type="button"
      className="btn-word"
      title="g"
      aria-label={playing || chosen ? undefined : `Play ${played.length} drawings`}
      aria-pressed={playing}
      onClick={() => setPlaying(!playing)}
    >
      {playing ? 'Back to the drawing' : chosen ? 'Play these' : `Play ${played.length}`}
    </button>
  );
  return (
    <div className="page delivery" {...(drawings.length ? drop.getRootProps() : {})}>
      {drawings.length > 0 && <input {...drop.getInputProps()} aria-label="more drawings" />}
      <Head
        title={d.name}
        says={
          <DeliverySays
            delivery={d}
            newer={newer}
            artists={artists}
            onAdd={may && drawings.length > 0 ? drop.open : undefined}
            onCheckAgain={() => act(() => take(api.POST('/api/v1/productions/{production}/deliveries/{id}/check', { params })))}
          />
        }
        state={
          <>
            <b>{d.headline}</b>
            <div className="soft">{d.summary}</div>
          </>
        }
      >
        <DownloadMenu url={`${base}/deliveries/${id}`} returned={returned} />
        {may && (
          <Button variant="paper" onClick={() => setNaming(!naming)}>
            Names and manifest
          </Button>
        )}
        {lead && ready.length > 0 && <Button onClick={() => decide(ready, 'ready')}>Mark {ready.length} as ready</Button>}
      </Head>
      <Problem error={error} />
      {(dropped.came || dropped.table) && (
        <CameIn
          came={dropped.came ?? []}
          table={dropped.table}
          onUndo={async (ids) =>
            (await setAside(ids, 'removed', ids.length === 1 ? '1 drawing removed' : `${ids.length} drawings removed`)) && dropped.dismiss()
          }
          onSelect={select}
          onDismiss={dropped.dismiss}
        />
      )}
      <Told says={told} onUndo={() => void undo()} onDismiss={dismiss} />
      <CheckProgress
        progress={progress}
        stopped={stopped}
        held={drawings.filter((x) => x.standing === 'waiting').length}
        may={may}
        onStop={() => act(() => take(api.POST('/api/v1/productions/{production}/deliveries/{id}/stop', { params })))}
        onGo={() => act(() => take(api.POST('/api/v1/productions/{production}/deliveries/{id}/go-on', { params })))}
      />
      {naming && (
        <HowKnown
          files={drawings.map((x) => x.file)}
          guide={d.guide_id}
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
          {!folded && <Sequence delivery={d} />}
          <FrameLanes
            delivery={d}
            selected={index}
            chosen={chosen}
            onSelect={selectAt}
            onChoose={setChosen}
            folded={
              folded ? (
                <>
                  <button type="button" className="btn-word" aria-expanded={false} onClick={() => fold(false)}>
                    Show lanes
                  </button>
                  {!chosen && play}
                </>
              ) : null
            }
          />
          <SpanBar
            span={chosen ? { of: together, open: together.filter(undecided), whole: isSpan(chosen) } : null}
            lead={lead}
            folded={folded}
            play={play}
            onReady={(of) => void decide(of, 'ready')}
            onReturn={(of, note, fix) => void decide(of, 'return', note, [], fix)}
            onIntend={(of, kind, why) => void intend({ all: { kind, drawings: of.map((x) => x.id) }, why }, `${kind} marked as intended on`)}
            kinds={KINDS.filter((k) => !d.guide.off?.includes(k))}
            must={d.guide.must_mend ?? []}
            onClear={() => setChosen(null)}
            onFold={() => fold(true)}
          />
          <FailedFiles of={failed} onSelect={select} />
          <SetAside of={d.aside} may={may} onRestore={(x, file) => void setAside([x], null, `${file} restored`)} />
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
                onDecide={(state, note, strokes, fix) => decide([drawings[index] as Summary], state, note, strokes, fix)}
                onAside={(why) => {
                  const gone = drawings[index] as Summary;
                  select(drawings[index + 1]?.id ?? drawings[index - 1]?.id);
                  void setAside([gone.id], why, `${gone.file} ${why === 'removed' ? 'removed' : 'marked as no drawing'}`);
                }}
                say={say}
                act={act}
                onGo={(by) => select(drawings[index + by]?.id)}
                onInkAgain={(trial) => navigate(`/brushes/trials/${trial}`)}
                onChoose={(ids) => setChosen(drawings.flatMap((x, i) => (ids.includes(x.id) ? [i] : [])))}
              />
            )
          )}
        </>
      )}
      <div className="mt-3">
        {folded && <Sequence delivery={d} />}
        <ArchiveIt kind="deliveries" id={d.id} name={d.name} />
      </div>
    </div>
  );
}
