// The card of the lay: how ink is laid along the stroke, with what each kind needs.
import { useState } from 'react';
import { type Schemas, sendFiles } from '../api/client';
import { Figure } from '../parts/Figure';
import { useOpen } from '../session';
import { Card, type CardProps, FigureRow, Row } from './Card';
import { PictureDrawer } from './PictureDrawer';
import { pathOfRings, type Ring, ringsOf, ShapeEditor } from './ShapeEditor';

type Lay = Schemas['Lay'];

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

/** A round tip, hard, as coverage: what a stamped lay begins with. */
function roundTip() {
  const canvas = document.createElement('canvas');
  canvas.width = 96;
  canvas.height = 96;
  const c = canvas.getContext('2d');
  c?.arc(48, 48, 47, 0, 7);
  c?.fill();
  return canvas.toDataURL('image/png');
}

const KINDS: Record<Lay['kind'], { label: string; says: string; make: () => Lay }> = {
  swept: { label: 'swept', says: 'The nib is drawn along the stroke.', make: () => ({ kind: 'swept' }) },
  bent: {
    label: 'bent',
    says: 'A drawn shape is bent along the whole stroke once. It keeps its proportions: the longer, the thicker.',
    make: () => ({ kind: 'bent', shape_path: pathOfRings([LEAF.map(([x, y]): [number, number] => [x, 0.2 * y])]) }),
  },
  'capped-run': {
    label: 'capped run',
    says: 'The shape’s ends keep their length and its middle repeats: a long stroke is as thick as a short one.',
    make: () => ({ kind: 'capped-run', shape_path: pathOfRings([LEAF]), caps: [0.3, 0.3] }),
  },
  bristled: {
    label: 'bristled',
    says: 'A bundle of hairs: light or fast they part and leave streaks.',
    make: () => ({ kind: 'bristled', hairs: 16, spread: 0.5, stiffness: 0.6, load: 1 }),
  },
  stamped: { label: 'stamped', says: 'A tip is set down again and again.', make: () => ({ kind: 'stamped', tip_png: roundTip(), spacing: 0.12 }) },
  pixel: { label: 'pixel', says: 'One pixel of the drawing, hard, without any other effect.', make: () => ({ kind: 'pixel' }) },
};

export function LayCard({ brush, change, may, match, preview, distortion }: CardProps & { distortion: number | null }) {
  const { production } = useOpen();
  const lay: Lay = brush.lay ?? { kind: 'swept' };
  const [says, setSays] = useState('');
  const [drawing, setDrawing] = useState<'tip' | 'second nib' | 'tooth' | null>(null);
  const put = (next: Lay) => change({ ...brush, lay: next.kind === 'swept' ? undefined : next });
  const picture = (label: string, onTip: (uri: string) => void, level: boolean) => (
    <label className="btn-word" style={{ cursor: 'pointer' }}>
      {label}
      <input
        type="file"
        accept="image/*"
        className="visually-hidden"
        aria-label={label}
        disabled={!may}
        onChange={async (e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (!file) return;
          try {
            if (!level) {
              const reader = new FileReader();
              reader.onload = () => onTip(String(reader.result));
              reader.readAsDataURL(file);
              return;
            }
            const tip = await sendFiles<Schemas['TipView']>(`/api/v1/productions/${production.id}/tips`, [file]);
            setSays(`Laid level: turned by ${tip.turned_deg.toFixed(1)}°; its colour is the brush’s.`);
            onTip(tip.tip_png);
          } catch (error) {
            setSays(error instanceof Error ? error.message : String(error));
          }
        }}
      />
    </label>
  );
  const shaped = lay.kind === 'bent' || lay.kind === 'capped-run';
  const rings = shaped ? ringsOf(lay.shape_path) : [];
  const idle =
    lay.kind === 'pixel'
      ? 'No effect now: weight, nib, tapers, pace, edge and opacity. The place is smoothed all the same.'
      : shaped
        ? 'No effect now: the nib’s shape and angle.'
        : lay.kind === 'stamped'
          ? 'No effect now: the nib’s shape, and the edge’s raggedness: the tip is the picture below.'
          : '';
  return (
    <Card title="Lay" match={match} may={may} style={shaped || lay.kind === 'stamped' ? { gridColumn: 'span 2' } : undefined}>
      <select
        className="form-select form-select-sm tight"
        aria-label="how ink is laid"
        disabled={!may}
        value={lay.kind}
        onChange={(e) => put(KINDS[e.target.value as Lay['kind']].make())}
      >
        {Object.entries(KINDS).map(([k, v]) => (
          <option key={k} value={k}>
            {v.label}
          </option>
        ))}
      </select>
      <p className="soft tight mb-1">
        {KINDS[lay.kind].says} {idle}
      </p>
      {shaped && (
        <ShapeEditor
          label="shape"
          rings={rings}
          pieces={lay.kind === 'bent'}
          holes={lay.kind === 'bent'}
          reach={[0.58, 0.26]}
          disabled={!may}
          onChange={(next, done) => {
            const to = { ...brush, lay: { ...lay, shape_path: pathOfRings(next) } };
            if (done) change(to);
            else preview(to);
          }}
        />
      )}
      {lay.kind === 'capped-run' && (
        <>
          <FigureRow
            name="its start takes"
            value={100 * (lay.caps[0] ?? 0)}
            digits={0}
            label="start of the shape in per cent"
            disabled={!may}
            onValue={(v) => put({ ...lay, caps: [v / 100, lay.caps[1] ?? 0] })}
          >
            {' '}
            %
          </FigureRow>
          <FigureRow
            name="its end takes"
            value={100 * (lay.caps[1] ?? 0)}
            digits={0}
            label="end of the shape in per cent"
            disabled={!may}
            onValue={(v) => put({ ...lay, caps: [lay.caps[0] ?? 0, v / 100] })}
          >
            {' '}
            %
          </FigureRow>
          <Row name="broken at corners over">
            <Figure
              value={lay.break_over_deg ?? 0}
              digits={0}
              label="corner in degrees at which the run is broken"
              disabled={!may}
              onValue={(v) => put({ ...lay, break_over_deg: v > 0 ? v : undefined })}
            />
            ° {lay.break_over_deg ? '' : '(never)'}
          </Row>
        </>
      )}
      {shaped && distortion != null && (
        <p className="tight mb-1">
          The bends of what lies in the try lane stretch it by up to <b>{(100 * distortion).toFixed(0)} %</b>
          {distortion > 1 ? ': it folds over inside them' : ''}.
        </p>
      )}
      {lay.kind === 'bristled' &&
        (
          [
            ['hairs', 'hairs', 0, ''],
            ['spread', 'unlike in length', 2, ''],
            ['stiffness', 'stiffness', 2, ''],
            ['load', 'ink they hold', 2, ''],
          ] as const
        ).map(([key, name, digits]) => (
          <Row key={key} name={name}>
            <Figure value={lay[key]} digits={digits} label={name} disabled={!may} onValue={(v) => put({ ...lay, [key]: v })} />
          </Row>
        ))}
      {lay.kind === 'stamped' && (
        <div className="d-flex gap-3">
          <div style={{ flex: '0 0 112px' }}>
            <div className="tip" title="the tip, level; the stroke runs to the right">
              <img src={lay.tip_png} alt="the tip" className="tip-picture" />
              <span aria-hidden className="tip-travel">
                →
              </span>
            </div>
            {picture('Tip from a picture…', (tip_png) => put({ ...lay, tip_png }), true)}
            <br />
            {picture(lay.second_tip_png ? 'Another second nib…' : 'Second nib…', (second_tip_png) => put({ ...lay, second_tip_png }), true)}
            <br />
            {picture(lay.tooth_png ? 'Another tooth…' : 'Tooth…', (tooth_png) => put({ ...lay, tooth_png, tooth_high_is_light: true }), false)}
            <select
              className="form-select form-select-sm tight mt-1"
              aria-label="draw on the page"
              disabled={!may}
              value={drawing ?? ''}
              onChange={(e) => setDrawing((e.target.value || null) as typeof drawing)}
            >
              <option value="">Draw…</option>
              <option value="tip">a tip</option>
              <option value="second nib">a second nib</option>
              <option value="tooth">a tooth</option>
            </select>
          </div>
          <div style={{ flex: 1 }}>
            {(
              [
                ['spacing', 'set down every', 100, '% of its size'],
                ['size_range', 'size varies by', 100, '%'],
                ['angle_range_deg', 'angle varies by', 1, '°'],
                ['spacing_range', 'spacing varies by', 100, '%'],
                ['scatter', 'scatters sideways', 100, '% of its size'],
              ] as const
            ).map(([key, name, k, unit]) => (
              <Row key={key} name={name}>
                <Figure value={(lay[key] ?? 0) * k} digits={0} label={name} disabled={!may} onValue={(v) => put({ ...lay, [key]: v / k })} /> {unit}
              </Row>
            ))}
            {lay.second_tip_png && (
              <button type="button" className="btn-word" disabled={!may} onClick={() => put({ ...lay, second_tip_png: undefined })}>
                Take the second nib off
              </button>
            )}
            {lay.tooth_png && (
              <div className="d-flex gap-3">
                <button type="button" className="btn-word" disabled={!may} onClick={() => put({ ...lay, tooth_high_is_light: !lay.tooth_high_is_light })}>
                  {lay.tooth_high_is_light ? 'Light is high' : 'Dark is high'}
                </button>
                <button type="button" className="btn-word" disabled={!may} onClick={() => put({ ...lay, tooth_png: undefined })}>
                  Take the tooth off
                </button>
              </div>
            )}
          </div>
        </div>
      )}
      {lay.kind === 'stamped' && drawing && may && (
        <PictureDrawer
          key={drawing}
          kind={drawing}
          picture={drawing === 'tip' ? lay.tip_png : drawing === 'second nib' ? lay.second_tip_png : null}
          onClose={() => setDrawing(null)}
          onDone={(uri) => {
            setDrawing(null);
            if (drawing === 'tip') put({ ...lay, tip_png: uri });
            else if (drawing === 'second nib') put({ ...lay, second_tip_png: uri });
            else put({ ...lay, tooth_png: uri, tooth_high_is_light: true });
          }}
        />
      )}
      {lay.kind !== 'pixel' && lay.kind !== 'swept' && (
        <button
          type="button"
          className="btn-word"
          aria-pressed={!!brush.reversed}
          disabled={!may}
          onClick={() => change({ ...brush, reversed: !brush.reversed })}
        >
          {brush.reversed ? 'Laid from the end to the start' : 'Reverse it along the stroke'}
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
