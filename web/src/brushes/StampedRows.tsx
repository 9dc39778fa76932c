// What a stamped tip needs: its picture, a second tip, the paper's tooth, and the ranges within which chance varies.
import { useState } from 'react';
import { type Schemas, sendFiles } from '../api/client';
import { useOpen } from '../session';
import { FigureRow } from './Card';
import { PictureDrawer } from './PictureDrawer';

export type StrokeKind = Schemas['StrokeKind'];
type Stamped = Extract<StrokeKind, { kind: 'stamped' }>;

type Props = { stroke: Stamped; may: boolean; put: (next: StrokeKind) => void; onSays: (says: string) => void };

export function StampedRows({ stroke, may, put, onSays }: Props) {
  const { production } = useOpen();
  const [drawing, setDrawing] = useState<'tip' | 'second tip' | 'paper tooth' | null>(null);
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
            onSays(`Levelled: turned by ${tip.turned_deg.toFixed(1)}°. Its colour is the brush’s.`);
            onTip(tip.tip_png);
          } catch (error) {
            onSays(error instanceof Error ? error.message : String(error));
          }
        }}
      />
    </label>
  );
  return (
    <div className="part-figure wide">
      <div className="d-flex gap-3">
        <div style={{ flex: '0 0 124px' }}>
          <div className="tip" title="the tip, level; the stroke runs to the right">
            <img src={stroke.tip_png} alt="the tip" className="tip-picture" />
            <span aria-hidden className="tip-travel">
              →
            </span>
          </div>
          {picture('Import tip…', (tip_png) => put({ ...stroke, tip_png }), true)}
          <br />
          {picture(stroke.second_tip_png ? 'Replace second tip…' : 'Import second tip…', (second_tip_png) => put({ ...stroke, second_tip_png }), true)}
          <br />
          {picture(
            stroke.paper_png ? 'Replace paper tooth…' : 'Import paper tooth…',
            (paper_png) => put({ ...stroke, paper_png, paper_high_is_light: true }),
            false,
          )}
          <select
            className="form-select form-select-sm tight mt-1"
            aria-label="draw on the page"
            disabled={!may}
            value={drawing ?? ''}
            onChange={(e) => setDrawing((e.target.value || null) as typeof drawing)}
          >
            <option value="">Draw…</option>
            <option value="tip">a tip</option>
            <option value="second tip">a second tip</option>
            <option value="paper tooth">a paper tooth</option>
          </select>
        </div>
        <div style={{ flex: 1 }}>
          {(
            [
              ['spacing', 'spacing', 100, '% of its size'],
              ['size_range', 'size varies by', 100, '%'],
              ['angle_range_deg', 'angle varies by', 1, '°'],
              ['spacing_range', 'spacing varies by', 100, '%'],
              ['stray', 'strays sideways by', 100, '% of its size'],
            ] as const
          ).map(([key, name, k, unit]) => (
            <FigureRow
              key={key}
              name={name}
              value={(stroke[key] ?? 0) * k}
              digits={0}
              label={name}
              disabled={!may}
              onValue={(v) => put({ ...stroke, [key]: v / k })}
              unit={unit}
            />
          ))}
          {stroke.second_tip_png && (
            <button type="button" className="btn-word" disabled={!may} onClick={() => put({ ...stroke, second_tip_png: undefined })}>
              Remove second tip
            </button>
          )}
          {stroke.paper_png && (
            <div className="d-flex gap-3">
              <button type="button" className="btn-word" disabled={!may} onClick={() => put({ ...stroke, paper_high_is_light: !stroke.paper_high_is_light })}>
                {stroke.paper_high_is_light ? 'Light is high' : 'Dark is high'}
              </button>
              <button type="button" className="btn-word" disabled={!may} onClick={() => put({ ...stroke, paper_png: undefined })}>
                Remove paper tooth
              </button>
            </div>
          )}
        </div>
      </div>
      {drawing && may && (
        <PictureDrawer
          key={drawing}
          kind={drawing}
          picture={drawing === 'tip' ? stroke.tip_png : drawing === 'second tip' ? stroke.second_tip_png : null}
          onClose={() => setDrawing(null)}
          onDone={(uri) => {
            setDrawing(null);
            if (drawing === 'tip') put({ ...stroke, tip_png: uri });
            else if (drawing === 'second tip') put({ ...stroke, second_tip_png: uri });
            else put({ ...stroke, paper_png: uri, paper_high_is_light: true });
          }}
        />
      )}
    </div>
  );
}
