// One drawing of a delivery on the desk: looked at, measured under the loupe, pinned, decided on.
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { useKeys } from '../parts/keys';
import { type Place, pictureUrl, STANDING, verdictWords } from '../parts/picture';
import { Problem } from '../parts/states';
import { useOpen } from '../session';
import { Deciding } from './Deciding';
import { DeskFoot } from './DeskFoot';
import { DeskTools } from './DeskTools';
import { DrawingPicture, type Tool } from './DrawingView';
import { Findings } from './Findings';
import { Loupe } from './Loupe';
import { MeasuredFoot } from './MeasuredFoot';
import { PinForm } from './PinForm';
import { RegionForm } from './RegionForm';
import type { Points } from './region';
import { TakeOf } from './TakeOf';
import { drawingQuery, saysLaid, useBehind } from './useBehind';
import type { Fix, State } from './useDecisions';
import { useNote } from './useNote';
import { useOnDrawing } from './useOnDrawing';
import { usePictureView } from './usePictureView';
import { WidthLane } from './WidthLane';

type Props = {
  delivery: Schemas['DeliveryView'];
  row: Schemas['DrawingSummary'];
  before: Schemas['DrawingSummary'] | undefined;
  after: Schemas['DrawingSummary'] | undefined;
  onDecide: (state: State, note: string, strokes: Points[], fix: Fix) => Promise<boolean>;
  onAside: (why: Schemas['WhyAside']) => void;
  /** Says what was done on the drawing, with its undo. */
  say: (says: string, undo: () => Promise<boolean>) => void;
  act: (what: () => Promise<unknown>) => Promise<boolean>;
  onGo: (by: number) => void;
  onInkAgain: (trial: string) => void;
  onChoose: (drawings: string[]) => void;
};

export function DrawingDesk({ delivery, row, before, after, onDecide, onAside, say, act, onGo, onInkAgain, onChoose }: Props) {
  const { production } = useOpen();
  const lead = production.part === 'lead';
  const base = `/api/v1/productions/${production.id}`;
  const [finding, setFinding] = useState<number | null>(null);
  const [asDrawn, setAsDrawn] = useState(false);
  const [zoomed, setZoomed] = useState(false);
  const [loupe, setLoupe] = useState(false);
  const [inPrint, setInPrint] = useState(false);
  const [wipe, setWipe] = useState<number | null>(null);
  const [pinning, setPinning] = useState(false);
  const [pinned, setPinned] = useState<[number, number] | null>(null);
  const [meaning, setMeaning] = useState(false);
  const [line, setLine] = useState<number | null>(null);
  const [at, setAt] = useState<Place | null>(null);
  const { note, setNote, strokes, setStrokes } = useNote(row.id);
  // A region to be left out, or that one is about to be drawn.
  const [region, setRegion] = useState<'drawn' | Points | null>(null);
  const leaving = region === 'drawn';
  const one = useQuery({ ...drawingQuery(production.id, row.id), queryKey: ['drawing', row.id, row.standing] });
  const drawing = one.data;
  const { behind, setBehind, ghosts, says } = useBehind(production.id, drawing, before, after);
  const findings = drawing?.check?.findings ?? [];
  const all = Object.values(drawing?.check?.not_listed ?? {}).reduce((sum, n) => sum + n, findings.length);
  const { put, inkAgain } = useOnDrawing({ delivery, row, before, after, act, say, onInkAgain });
  const view = usePictureView([drawing?.check?.width_px ?? 1920, drawing?.check?.height_px ?? 1080]);
  const sought = finding !== null && zoomed ? findings[finding] : undefined;
  const [soughtX, soughtY] = [sought?.x, sought?.y];
  // biome-ignore lint/correctness/useExhaustiveDependencies: another finding is what moves the view, and not the view itself
  useEffect(() => {
    if (soughtX !== undefined && soughtY !== undefined) view.lookAt(soughtX, soughtY);
    else view.showAll();
  }, [soughtX, soughtY]);
  const look = (i: number | null) => {
    setFinding(i);
    setMeaning(false);
    if (i !== null) setZoomed(true);
  };
  const step = (by: number) => findings.length && look(((finding ?? (by > 0 ? -1 : 0)) + by + findings.length) % findings.length);
  useKeys({
    n: () => step(1),
    p: () => step(-1),
    arrowdown: () => step(1),
    arrowup: () => step(-1),
    arrowright: () => onGo(1),
    arrowleft: () => onGo(-1),
    ',': () => setBehind({ ...behind, previous: !behind.previous }),
    '.': () => setBehind({ ...behind, next: !behind.next }),
    l: () => setLoupe(!loupe),
    z: () => setZoomed(!zoomed),
    '+': () => view.zoomBy(1.4),
    '=': () => view.zoomBy(1.4),
    '-': () => view.zoomBy(1 / 1.4),
    home: view.showAll,
    '1': lead && drawing?.check ? () => row.decision?.state !== 'ready' && void onDecide('ready', '', [], null) : undefined,
    '2': lead ? () => setNote(note ?? '') : undefined,
    '3': lead ? () => finding !== null && setMeaning(true) : undefined,
    m: lead ? () => setPinning(!pinning) : undefined,
    escape: () => {
      setZoomed(false);
      setPinning(false);
      setRegion(null);
      setLine(null);
    },
  });
  const tool: Tool = note !== null ? 'note' : pinning ? 'pin' : leaving ? 'region' : 'look';
  const roleOf = (l: number | undefined) => (l === undefined ? undefined : delivery.guide.roles[drawing?.lines[l]?.role ?? -1]);
  const last = drawing?.decisions[drawing.decisions.length - 1];
  const roles = drawing?.check?.roles.filter((r) => r.verdict && r.verdict !== 'within') ?? [];
  const losses = drawing?.check?.print?.length ?? 0;
  const earlierLies = drawing?.earlier?.compared.laid;
  const url = drawing ? pictureUrl(base, drawing.sha256, drawing.file) : '';
  return (
    <div style={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 320px', gap: 12, alignItems: 'start' }}>
      <div className="lanes">
        <DeskTools
          on={{ asDrawn, behind, zoomed, loupe, inPrint, pinning, leaving, wiped: wipe !== null }}
          set={{ setAsDrawn, setBehind, setZoomed, setLoupe, setInPrint, setPinning, setLeaving: (on) => setRegion(on ? 'drawn' : null) }}
          onWipe={drawing?.earlier ? () => setWipe(wipe === null ? 0.5 : null) : undefined}
          print={delivery.guide.print ? losses : undefined}
          lead={lead}
          view={view}
        />
        {drawing && !drawing.check && row.message ? (
          <p className="px-3 py-5 m-0 soft">There is no picture to show: this file could not be read.</p>
        ) : drawing ? (
          <div style={{ position: 'relative' }}>
            <DrawingPicture
              drawing={drawing}
              behind={ghosts}
              image={url}
              wipe={
                wipe !== null && drawing.earlier
                  ? { image: pictureUrl(base, drawing.earlier.sha256, drawing.earlier.file), share: wipe, laid: drawing.earlier.compared.laid }
                  : null
              }
              selected={finding}
              onSelect={look}
              asDrawn={asDrawn}
              inPrint={inPrint}
              view={view}
              tool={tool}
              notes={note === null && last && last.state !== 'open' ? last.strokes : []}
              strokes={strokes}
              onStroke={(s) => setStrokes([...strokes, s])}
              onPin={(x, y) => {
                setPinned([x, y]);
                setPinning(false);
              }}
              region={leaving ? null : region}
              onRegion={setRegion}
              line={line}
              onLine={setLine}
              at={at}
              onAt={setAt}
            />
            {loupe && at && <Loupe drawing={drawing} production={production.id} image={url} at={at} role={roleOf(at.line)} />}
          </div>
        ) : (
          <Problem error={one.error} />
        )}
        {wipe !== null && (
          <input
            type="range"
            className="px-3"
            style={{ width: '100%' }}
            aria-label="share of the previous take"
            min={0}
            max={1}
            step={0.01}
            value={wipe}
            onChange={(e) => setWipe(Number(e.target.value))}
          />
        )}
        {drawing && line !== null && <WidthLane drawing={drawing} line={line} role={roleOf(line)} at={at} onAt={setAt} />}
        <DeskFoot tool={tool} line={line !== null} laid={[...says, ...(wipe !== null && earlierLies ? [saysLaid('The previous take', earlierLies)] : [])]} />
      </div>
      <div className="lanes">
        <div className="px-3 py-2">
          <h2>
            {row.manifest.drawing ? `Drawing ${row.manifest.drawing}` : row.file}
            {row.manifest.artist ? ` · ${row.manifest.artist}` : ''}
          </h2>
          <div className="tight soft">
            {row.message ?? STANDING[row.standing]}
            {all ? ` · ${all.toLocaleString()} ${all === 1 ? 'finding' : 'findings'}` : ''}
          </div>
        </div>
        {drawing?.check?.why && (
          <div className="px-3 py-2 tight" role="note" style={{ borderTop: '1px solid var(--hairline)', color: 'var(--warn)' }}>
            <b>Not checked.</b> {drawing.check.why}
          </div>
        )}
        {drawing && <TakeOf drawing={drawing} may={production.part !== 'viewer'} act={act} />}
        {drawing?.check?.warnings?.map((says) => (
          <div key={says} className="px-3 py-2 tight" style={{ borderTop: '1px solid var(--hairline)', color: 'var(--warn)' }}>
            {says}
          </div>
        ))}
        {drawing && (drawing.check || row.standing !== 'waiting') && (
          <Deciding
            drawing={drawing}
            unread={!drawing.check}
            lead={lead}
            note={note}
            strokes={strokes.length}
            onNote={setNote}
            onUndoStroke={() => setStrokes(strokes.slice(0, -1))}
            onDecide={async (state, text, fix) => {
              if (await onDecide(state, text, state === 'return' ? strokes : [], fix)) setNote(null);
            }}
            onAside={onAside}
            onInkAgain={() => void inkAgain(drawing)}
          />
        )}
        {region && !leaving && drawing?.check && (
          <RegionForm
            guide={delivery.guide_id}
            drawing={row.id}
            scale={drawing.check.scale}
            shot={row.manifest.shot}
            points={region}
            onOwn={put.leftOut}
            onDone={() => setRegion(null)}
          />
        )}
        {pinned && <PinForm onCancel={() => setPinned(null)} onPin={async (text) => void ((await put.pin(pinned, text)) && setPinned(null))} />}
        {roles.map((r) => (
          <div key={r.role} className="px-3 py-1 tight" style={{ borderTop: '1px solid var(--hairline)' }}>
            <b className={r.verdict === 'heavy' ? 'heavy' : r.verdict === 'thin' ? 'thin' : ''}>
              {r.role} {verdictWords(r.verdict)}
            </b>
            {r.weight_px && (
              <span className="soft">
                {' '}
                {r.weight_px.mean.toFixed(2)} px ({r.weight_px.interval.map((v) => v.toFixed(2)).join(' to ')})
              </span>
            )}
          </div>
        ))}
        {drawing && (
          <Findings
            drawing={drawing}
            selected={finding}
            onSelect={look}
            lead={lead}
            meaning={meaning}
            onMeaning={setMeaning}
            onDismiss={async (f, why, alike) => void ((await put.dismiss(f, why, alike)) && setMeaning(false))}
            onUndo={(dismissal) => void put.undismiss(dismissal)}
            onUnpin={(pin) => void put.unpin(pin)}
            onChoose={onChoose}
          />
        )}
        {drawing?.check && findings.length === 0 && (
          <div className="px-3 py-2 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
            Nothing found{delivery.not_looked_for.length ? `; kinds that are not looked for: ${delivery.not_looked_for.join(', ')}` : ''}.
          </div>
        )}
        {drawing?.check && (
          <MeasuredFoot check={drawing.check} overlay={`${base}/drawings/${row.id}/overlay`} regions={drawing.regions} onPutIn={lead ? put.putIn : undefined} />
        )}
        <div className="px-3 py-2 tight soft" style={{ borderTop: '1px solid var(--hairline)' }}>
          ← → drawing · ↑ ↓ finding · , . previous and next · + − zoom, Home all of it
          {lead ? ' · 1 ready · 2 return · 3 intended · m pin · u next undecided' : ''}
        </div>
      </div>
    </div>
  );
}
