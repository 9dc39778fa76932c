// The parts of a pen's page that are its own: files, tags and comparison; and what its sampler sheet told.
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Form } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { PenChange } from '../lanes/PenChange';
import { Conflict } from '../parts/Conflict';
import { otherSide } from '../parts/stale';
import { Problem } from '../parts/states';
import { useOpen } from '../session';
import { Along, EdgeCorrelation, Ramp, Rose, Seam, Tapers } from './PenParts';
import { SheetPicture, sheetPictures } from './SheetPicture';

type Pen = Schemas['PenView'];

const FILES = [
  ['card.json', 'pen card'],
  ['figures.csv', 'figures'],
  ['lines.svg', 'lines'],
  ['strip.png', 'strip'],
] as const;

/** What can be taken elsewhere, the tags, and another pen to hold it against. */
export function PenFiles({ pen, base, may, others }: { pen: Pen; base: string; may: boolean; others: Schemas['PenSummary'][] }) {
  const { production } = useOpen();
  const client = useQueryClient();
  const [tags, setTags] = useState(pen.tags.join(', '));
  const [other, setOther] = useState('');
  const [error, setError] = useState<unknown>(null);
  const [theirs, setTheirs] = useState<string[] | null>(null);
  const save = async (over = pen.tags_version) => {
    const wanted = tags.split(',').map((t) => t.trim());
    if (!theirs && wanted.filter(Boolean).join() === pen.tags.join()) return;
    setError(null);
    try {
      await take(
        api.PUT('/api/v1/productions/{production}/pens/{id}/tags', {
          params: { path: { production: production.id, id: pen.id } },
          body: { tags: wanted, from_version: over },
        }),
      );
      setTheirs(null);
    } catch (e) {
      const other = otherSide<string[]>(e);
      if (other) setTheirs(other);
      else setError(e);
    }
    await client.invalidateQueries();
  };
  return (
    <>
      {theirs && (
        <Conflict
          what="the tags of this pen"
          keep="Save mine"
          mine={<div className="tight">{tags || 'none'}</div>}
          theirs={<div className="tight">{theirs.join(', ') || 'none'}</div>}
          onMine={() => save(pen.tags_version)}
          onTheirs={() => {
            setTags(theirs.join(', '));
            setTheirs(null);
          }}
        />
      )}
      <div className="d-flex gap-3 align-items-end mb-2 flex-wrap tight">
        <span>
          <span className="soft">export: </span>
          {FILES.filter(([what]) => what !== 'strip.png' || pen.card.strip_png).map(([what, label]) => (
            <a key={what} href={`${base}/pens/${pen.id}/files/${what}`} download className="me-2">
              {label} ({what.split('.')[1]?.toUpperCase()})
            </a>
          ))}
        </span>
        <Form.Group controlId="pen-tags" className="soft" style={{ flex: '0 1 260px' }}>
          <Form.Label className="mb-0">tags, comma-separated</Form.Label>
          <Form.Control
            size="sm"
            value={tags}
            disabled={!may}
            onChange={(e) => setTags(e.target.value)}
            onBlur={() => save()}
            onKeyDown={(e) => e.key === 'Enter' && save()}
          />
        </Form.Group>
        <Form.Group controlId="pen-against" className="soft" style={{ flex: '0 1 260px' }}>
          <Form.Label className="mb-0">compare with an earlier scan or another pen</Form.Label>
          <Form.Select size="sm" value={other} onChange={(e) => setOther(e.target.value)}>
            <option value="">none</option>
            {others.map((o) => (
              <option key={o.id} value={o.id}>
                {o.name}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      </div>
      <Problem error={error} />
      {other && <PenChange from={other} to={pen.id} names={[others.find((o) => o.id === other)?.name ?? '', pen.name]} />}
    </>
  );
}

type SheetProps = { pen: Pen; sheet: Schemas['KeptSheet']; base: string; cell: string | null; setCell: (cell: string | null) => void };

/** Tapers, nib, ramp, paces, dots and strip; each opens the cell that it came from. */
export function SheetParts({ pen, sheet, base, cell, setCell }: SheetProps) {
  const { card } = pen;
  const r = sheet.reading;
  const strokes = (kind: string) => r.cells.filter((c) => c.kind === kind).flatMap((c) => c.strokes);
  const shown = cell ? r.plan.cells.find((c) => c.id === cell) : undefined;
  const pictures = sheetPictures(`${base}/images/${pen.scan_sha256}`, r);
  return (
    <>
      {shown && (
        <div className="card-plain mb-2" id="cell">
          <div className="d-flex justify-content-between">
            <h2>
              {shown.title}, as {r.photo ? 'photographed' : 'scanned'}, with the measured edges
            </h2>
            <button type="button" className="btn-word" onClick={() => setCell(null)}>
              close
            </button>
          </div>
          <div className="mt-1" style={{ maxWidth: 900, border: '1px solid var(--hairline)' }}>
            <SheetPicture reading={r} width={sheet.width_px} height={sheet.height_px} src={pictures.large} leftOut={sheet.left_out} cell={cell} />
          </div>
        </div>
      )}
      <div className="d-flex gap-2 mb-2 flex-wrap">
        {card.lead_out && <Tapers name="Lead-out" taper={card.lead_out} strokes={strokes('flick-out')} out onPicture={() => setCell('flick-out')} />}
        {card.lead_in && <Tapers name="Lead-in" taper={card.lead_in} strokes={strokes('flick-in')} out={false} onPicture={() => setCell('flick-in')} />}
        <Along lines={pen.lines.filter((l) => l.effort === 0.5)} onPicture={() => setCell('effort-0.5')} />
        <Rose card={card} reading={r} onPicture={() => setCell('fan')} />
        {card.ramp && <Ramp points={card.ramp} onPicture={() => setCell('ramp')} />}
        <div className="card-plain" style={{ flex: '1 1 300px' }}>
          <h2>Pace and pooling</h2>
          {card.widths_by_pace?.map((w) => (
            <div key={w.pace} className="figure-row">
              <span>
                {w.pace}, {w.speed_mm_s.toFixed(0)} mm/s
              </span>
              <b>
                {w.width_mm.toFixed(3)} ± {w.sd_mm.toFixed(3)} mm{' '}
                <button type="button" className="btn-word" onClick={() => setCell(`pace-${w.pace}`)}>
                  see
                </button>
              </b>
            </div>
          ))}
          {card.pooling && (
            <div className="figure-row">
              <span>dot held {card.pooling.held_s?.toFixed(0) ?? '?'} s</span>
              <b>
                {card.pooling.dot_mm.toFixed(3)} mm, {card.pooling.ratio.toFixed(2)} of the line{' '}
                <button type="button" className="btn-word" onClick={() => setCell('dot')}>
                  see
                </button>
              </b>
            </div>
          )}
          {card.hatching && (
            <>
              <div className="figure-row">
                <span>hatching: line over clear paper</span>
                <b>
                  {card.hatching.coarseness.toFixed(2)}{' '}
                  <button type="button" className="btn-word" onClick={() => setCell('hatching')}>
                    see
                  </button>
                </b>
              </div>
              <div className="figure-row">
                <span>its tone</span>
                <b>{(100 * card.hatching.tone).toFixed(0)} % inked</b>
              </div>
            </>
          )}
        </div>
        <EdgeCorrelation points={pen.autocorrelation} length={card.edge?.raggedness_correlation_um} onPicture={() => setCell('effort-0.5')} />
        {card.strip_png && <Seam strip={card.strip_png} mismatch={sheet.strip_mismatch_um} />}
      </div>
      <h2 className="mt-3 mb-1">The sheet, set upright</h2>
      <div className="tight soft mb-1">
        {r.marks} corner marks · turned {r.turn_deg.toFixed(2)}°{r.shading != null && ` · shading of ${(100 * r.shading).toFixed(0)} % removed`} · printed at{' '}
        {(100 * (r.printed_scale[0] ?? 1)).toFixed(1)} % · choose a cell to see it large
      </div>
      <div style={{ maxWidth: 560, border: '1px solid var(--hairline)' }}>
        <SheetPicture reading={r} width={sheet.width_px} height={sheet.height_px} src={pictures.whole} leftOut={sheet.left_out} onCell={setCell} />
      </div>
    </>
  );
}
