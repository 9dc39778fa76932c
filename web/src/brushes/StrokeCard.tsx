// The card of the stroke kind: how the tip works, and a shape along the stroke with its ends.
import { useState } from 'react';
import { Figure } from '../parts/Figure';
import { Card, type CardProps, FigureRow, Row } from './Card';
import { pathOfRings, type Ring, ringsOf, ShapeEditor } from './ShapeEditor';
import { StampedRows, type StrokeKind } from './StampedRows';

const LEAF: Ring = [
  [-0.5, 0],
  [-0.25, -0.1],
  [0.05, -0.13],
  [0.3, -0.08],
  [0.5, 0],
  [0.3, 0.08],
  [0.05, 0.13],
  [-0.25, 0.1],
];

/** A round tip, hard, as coverage: what a stamped tip begins with. */
function roundTip() {
  const canvas = document.createElement('canvas');
  canvas.width = 96;
  canvas.height = 96;
  const c = canvas.getContext('2d');
  c?.arc(48, 48, 47, 0, 7);
  c?.fill();
  return canvas.toDataURL('image/png');
}

type Tip = 'swept' | 'stamped' | 'dry-brush' | 'pixel';
const TIPS: Record<Tip, { label: string; says: string; make: () => StrokeKind }> = {
  swept: { label: 'swept nib', says: 'The nib is drawn along the stroke.', make: () => ({ kind: 'swept' }) },
  stamped: {
    label: 'stamped tip',
    says: 'A tip image is set down again and again.',
    make: () => ({ kind: 'stamped', tip_png: roundTip(), spacing: 0.12 }),
  },
  'dry-brush': {
    label: 'dry brush',
    says: 'A bundle of hairs: light or fast they part and leave streaks.',
    make: () => ({ kind: 'dry-brush', hairs: 16, spread: 0.5, snap: 0.6, ink_held: 1 }),
  },
  pixel: { label: 'pixel', says: 'One pixel of the drawing, hard, without any other effect.', make: () => ({ kind: 'pixel' }) },
};

/** What does nothing as things stand. */
function idle(kind: StrokeKind['kind']) {
  if (kind === 'pixel') return 'No effect now: weight, nib, tapers, pace, edge and opacity. The place is smoothed all the same.';
  if (kind === 'shaped') return 'No effect now: the nib’s shape and angle.';
  return kind === 'stamped' ? 'No effect now: the nib’s shape and the edge’s raggedness; the tip is the picture below.' : '';
}

export function StrokeCard({ brush, change, may, match, preview, distortion }: CardProps & { distortion: number | null }) {
  const stroke: StrokeKind = brush.stroke ?? { kind: 'swept' };
  const [says, setSays] = useState('');
  const put = (next: StrokeKind) => change({ ...brush, stroke: next.kind === 'swept' ? undefined : next });
  const shaped = stroke.kind === 'shaped' ? stroke : null;
  const tip: Tip = stroke.kind === 'shaped' ? 'swept' : stroke.kind;
  const keeps = shaped?.ends === 'keep';
  const caps = shaped?.caps ?? [0.3, 0.3];
  return (
    <Card title="Stroke kind" match={match} may={may}>
      <select
        className="form-select form-select-sm tight"
        aria-label="how the tip works"
        disabled={!may}
        value={tip}
        onChange={(e) => put(TIPS[e.target.value as Tip].make())}
      >
        {Object.entries(TIPS).map(([k, v]) => (
          <option key={k} value={k}>
            {v.label}
          </option>
        ))}
      </select>
      {tip === 'swept' && (
        <label className="tight d-block mt-1">
          <input
            type="checkbox"
            checked={!!shaped}
            disabled={!may}
            onChange={(e) =>
              put(
                e.target.checked
                  ? { kind: 'shaped', ends: 'stretch', shape_path: pathOfRings([LEAF.map(([x, y]): [number, number] => [x, 0.2 * y])]) }
                  : { kind: 'swept' },
              )
            }
          />{' '}
          a shape along the stroke
        </label>
      )}
      {shaped && (
        <label className="tight d-block">
          <input
            type="checkbox"
            checked={keeps}
            disabled={!may}
            onChange={(e) =>
              put(
                e.target.checked
                  ? { ...shaped, ends: 'keep', caps, shape_path: pathOfRings([ringsOf(shaped.shape_path)[0] ?? LEAF]) }
                  : { ...shaped, ends: 'stretch', caps: undefined, break_over_deg: undefined },
              )
            }
          />{' '}
          ends keep their length
        </label>
      )}
      <p className="soft tight mb-1">
        {shaped
          ? keeps
            ? 'The shape’s ends keep their length and its middle repeats: a long stroke is as thick as a short one.'
            : 'A drawn shape is stretched along the whole stroke once. It keeps its proportions: the longer, the thicker.'
          : TIPS[tip].says}{' '}
        {idle(stroke.kind)}
      </p>
      {shaped && (
        <div className="part-figure">
          <ShapeEditor
            label="shape"
            rings={ringsOf(shaped.shape_path)}
            pieces={!keeps}
            holes={!keeps}
            reach={[0.58, 0.26]}
            disabled={!may}
            onChange={(next, done) => {
              const to = { ...brush, stroke: { ...shaped, shape_path: pathOfRings(next) } };
              if (done) change(to);
              else preview(to);
            }}
          />
        </div>
      )}
      {shaped && keeps && (
        <>
          <FigureRow
            name="its start takes"
            value={100 * (caps[0] ?? 0)}
            digits={0}
            label="start of the shape in per cent"
            range={[0, 100]}
            disabled={!may}
            onValue={(v) => put({ ...shaped, caps: [v / 100, caps[1] ?? 0] })}
            unit="%"
          />
          <FigureRow
            name="its end takes"
            value={100 * (caps[1] ?? 0)}
            digits={0}
            label="end of the shape in per cent"
            range={[0, 100]}
            disabled={!may}
            onValue={(v) => put({ ...shaped, caps: [caps[0] ?? 0, v / 100] })}
            unit="%"
          />
          <Row name="breaks at corners over">
            <Figure
              value={shaped.break_over_deg ?? 0}
              digits={0}
              label="corner in degrees at which the shape breaks"
              range={[0, 180]}
              disabled={!may}
              onValue={(v) => put({ ...shaped, break_over_deg: v > 0 ? v : undefined })}
            />
            ° {shaped.break_over_deg ? '' : '(never)'}
          </Row>
        </>
      )}
      {shaped && distortion != null && (
        <p className="tight mb-1">
          The bends of what lies in the try lane stretch the shape by up to <b>{(100 * distortion).toFixed(0)} %</b>
          {distortion > 1 ? ': inside them it folds over' : ''}.
        </p>
      )}
      {stroke.kind === 'dry-brush' &&
        (
          [
            ['hairs', 'hairs', 0],
            ['spread', 'spread', 2],
            ['snap', 'snap', 2],
            ['ink_held', 'ink held', 2],
          ] as const
        ).map(([key, name, digits]) => (
          <FigureRow key={key} name={name} value={stroke[key]} digits={digits} label={name} disabled={!may} onValue={(v) => put({ ...stroke, [key]: v })} />
        ))}
      {stroke.kind === 'stamped' && <StampedRows stroke={stroke} may={may} put={put} onSays={setSays} />}
      {stroke.kind !== 'pixel' && stroke.kind !== 'swept' && (
        <button
          type="button"
          className="btn-word"
          aria-pressed={!!brush.reversed}
          disabled={!may}
          onClick={() => change({ ...brush, reversed: !brush.reversed })}
        >
          {brush.reversed ? 'Runs from the end to the start' : 'Reverse along the stroke'}
        </button>
      )}
      {says && (
        <div className="soft tight" role="status">
          {says}
        </div>
      )}
    </Card>
  );
}
