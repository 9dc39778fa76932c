// What is put on one drawing of a delivery, each with its undo: pins, what is intended, also where it recurs; and a trial page to ink it again.
import { api, type Schemas, take } from '../api/client';
import { useOpen } from '../session';
import { useIntended } from './useIntended';

type Row = Schemas['DrawingSummary'];
type Props = {
  delivery: Schemas['DeliveryView'];
  row: Row;
  before: Row | undefined;
  after: Row | undefined;
  act: (what: () => Promise<unknown>) => Promise<boolean>;
  say: (says: string, undo: () => Promise<boolean>) => void;
  onInkAgain: (trial: string) => void;
};

export function useOnDrawing({ delivery, row, before, after, act, say, onInkAgain }: Props) {
  const { production } = useOpen();
  const path = { production: production.id, id: row.id };
  const name = row.manifest.drawing ? `drawing ${row.manifest.drawing}` : row.file;
  const { intend, remove } = useIntended(production.id, delivery.id, act, say);
  const unpin = (pin: string) =>
    act(() => take(api.DELETE('/api/v1/productions/{production}/drawings/{id}/pins/{pin}', { params: { path: { ...path, pin } } })));
  const putIn = (region: string) =>
    act(() => take(api.DELETE('/api/v1/productions/{production}/drawings/{id}/regions/{region}', { params: { path: { ...path, region } } })));
  const put = {
    pin: async ([x, y]: [number, number], text: string) => {
      let made = '';
      const fine = await act(async () => {
        made = (await take(api.POST('/api/v1/productions/{production}/drawings/{id}/pins', { params: { path }, body: { x, y, text } }))).id;
      });
      if (fine) say(`pin added to ${name}`, () => unpin(made));
      return fine;
    },
    unpin,
    dismiss: async (finding: Schemas['Finding'], why: string, alike: Schemas['Alike'][]) => {
      const findings = [{ drawing: row.id, finding }, ...alike.map((a) => ({ drawing: a.drawing, finding: a.finding }))];
      if (alike.length) return intend({ findings, why }, 'marked as intended on');
      let made = '';
      const fine = await act(async () => {
        made = (await take(api.POST('/api/v1/productions/{production}/drawings/{id}/dismissals', { params: { path }, body: { finding, why } }))).id;
      });
      if (fine) say(`marked as intended on ${name}`, () => remove([{ drawing: row.id, dismissal: made }]));
      return fine;
    },
    /** Says that a region is left out, with its undo. */
    leftOut: (made: string, region: string) => say(`${region} left out of ${name}`, () => putIn(made)),
    putIn: (region: string) => void putIn(region),
    undismiss: (dismissal: string) => remove([{ drawing: row.id, dismissal }]),
  };
  const inkAgain = async (drawing: Schemas['DrawingView']) => {
    const page = {
      width_px: drawing.check?.width_px ?? 1920,
      height_px: drawing.check?.height_px ?? 1080,
      px_per_mm: delivery.guide.page.px_per_mm ?? 6,
      rough: drawing.sha256,
      neighbours: [before?.sha256, after?.sha256].filter((x): x is string => !!x),
      drawing: drawing.id,
      strokes: [],
    };
    let made = '';
    const fine = await act(async () => {
      const params = { path: { production: production.id } };
      made = (await take(api.POST('/api/v1/productions/{production}/trials', { params, body: { name: `${row.file}, again`, page } }))).id;
    });
    if (fine) onInkAgain(made);
  };
  return { put, inkAgain };
}
