// The proof sheet: one brush or several on the same figures, on screen and to print.
import { useQueries } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { PROOF_MM } from '../engine/engine';
import { ProofFigures } from '../lanes/ProofFigures';
import { takeBrush, useRack } from '../parts/lists';
import { matched } from '../parts/screen';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';

export function ProofSheet() {
  const { production } = useOpen();
  const [search, setSearch] = useSearchParams();
  const shown = (search.get('show') ?? '')
    .split(',')
    .filter(Boolean)
    .map((s) => {
      const [id = '', version] = s.split('@');
      return { id, version: Number(version) };
    });
  const put = (list: typeof shown) => setSearch(list.length ? { show: list.map((s) => `${s.id}@${s.version}`).join(',') } : {}, { replace: true });
  const rack = useRack(production.id);
  const ids = [...new Set(shown.map((s) => s.id))];
  const brushes = useQueries({
    queries: ids.map((id) => ({
      queryKey: ['brush', id],
      queryFn: () => takeBrush(production.id, id),
    })),
  });
  if (rack.isLoading) return <Loading what="the rack" />;
  const list = shown.map((s) => `${s.id}@${s.version}`).join(',');
  const file = (kind: string) => `/api/v1/productions/${production.id}/proof-sheet/${list}/${kind}`;
  const pxPerMm = matched();
  return (
    <div className="page">
      <Head
        title={shown.length === 1 ? 'Proof sheet of one brush' : `Proof sheet of ${shown.length} brushes`}
        says={`the same strokes for every brush: a steady hand’s, ${PROOF_MM[0]} × ${PROOF_MM[1]} mm; ${pxPerMm ? 'at true size on this screen' : 'fitted to the page: match the screen under Pens to see true size'}`}
      >
        {shown.length > 0 && (
          <div className="d-flex gap-2">
            <a className="btn btn-paper" href={file('svg')}>
              Download SVG
            </a>
            <a className="btn btn-primary" href={file('pdf')}>
              Download PDF, true size
            </a>
          </div>
        )}
      </Head>
      <Problem error={rack.error ?? brushes.find((b) => b.error)?.error} />
      <label className="tight d-block mb-2">
        add a brush{' '}
        <select
          className="form-select form-select-sm d-inline-block w-auto"
          value=""
          onChange={(e) => {
            const b = rack.data?.find((x) => x.id === e.target.value);
            if (b) put([...shown, { id: b.id, version: b.current_version }]);
          }}
        >
          <option value="">choose one…</option>
          {rack.data?.map((b) => (
            <option key={b.id} value={b.id}>
              {b.name}
            </option>
          ))}
        </select>
      </label>
      {shown.length === 0 && <Empty title="No brush is on the sheet">Choose one above; several can stand one under the other.</Empty>}
      {shown.map((s, i) => {
        const view = brushes[ids.indexOf(s.id)]?.data;
        const v = view?.versions.find((x) => x.version === s.version);
        if (!view) return <Loading key={i} what="a brush" />;
        return (
          <section key={i} className="card-plain mb-2" style={{ overflowX: 'auto' }}>
            <div className="d-flex gap-3 align-items-baseline">
              <h2>{view.name}</h2>
              <span className="soft tight">{v ? `version ${v.version}, ${v.by}, ${day(v.at)}` : 'that version is not there'}</span>
              <select
                className="form-select form-select-sm tight w-auto"
                aria-label={`version of ${view.name}`}
                value={s.version}
                onChange={(e) => put(shown.map((x, k) => (k === i ? { ...x, version: Number(e.target.value) } : x)))}
              >
                {view.versions.map((x) => (
                  <option key={x.version} value={x.version}>
                    version {x.version}
                  </option>
                ))}
              </select>
              <button type="button" className="btn-word ms-auto" onClick={() => put(shown.filter((_, k) => k !== i))}>
                Remove from sheet
              </button>
            </div>
            {v && (
              <ProofFigures
                brush={v.brush}
                label={`proof figures of ${view.name}, version ${v.version}`}
                widthPx={pxPerMm ? PROOF_MM[0] * pxPerMm : undefined}
              />
            )}
          </section>
        );
      })}
    </div>
  );
}
