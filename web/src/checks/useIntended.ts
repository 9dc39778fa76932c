// Findings of a delivery marked as intended, one or many, with their undo.
import { api, type Schemas, take } from '../api/client';

type Act = (what: () => Promise<unknown>) => Promise<boolean>;
type Say = (says: string, undo: () => Promise<boolean>) => void;
type Asked = Partial<Schemas['DismissMany']> & { why: string };

export function useIntended(production: string, delivery: string, act: Act, say: Say) {
  const remove = (of: Schemas['MarkedOne'][]) =>
    act(() =>
      Promise.all(
        of.map(({ drawing, dismissal }) =>
          take(
            api.DELETE('/api/v1/productions/{production}/drawings/{id}/dismissals/{dismissal}', {
              params: { path: { production, id: drawing, dismissal } },
            }),
          ),
        ),
      ),
    );
  /** Marks them; `what` says which, before on how many drawings. */
  const intend = async ({ findings = [], all, why }: Asked, what: string) => {
    let marked: Schemas['MarkedOne'][] = [];
    const fine = await act(async () => {
      const params = { path: { production, id: delivery } };
      marked = await take(api.POST('/api/v1/productions/{production}/deliveries/{id}/dismissals', { params, body: { findings, all, why } }));
    });
    const on = new Set(marked.map((m) => m.drawing)).size;
    if (fine) say(`${what} ${on === 1 ? '1 drawing' : `${on} drawings`}`, () => remove(marked));
    return fine;
  };
  return { intend, remove };
}
