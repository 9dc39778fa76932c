// The drawer: each pen as its own line, thinnest first.
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, take } from '../api/client';
import { TrueLine } from '../lanes/PenLineView';
import { Empty, Head, Loading, Problem } from '../lanes/states';
import { useMayChange, useOpen } from '../session';

export function usePens() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  return useQuery({ queryKey: ['pens', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/pens', { params })) });
}

export function Pens() {
  const pens = usePens();
  const may = useMayChange();
  if (pens.isLoading) return <Loading what="the drawer" />;
  const list = pens.data ?? [];
  return (
    <div className="page">
      <Head
        title={list.length === 1 ? '1 pen in the drawer' : `${list.length} pens in the drawer`}
        says="each drawn by a line of its own at 96 px to the inch, thinnest first"
      >
        {may && (
          <Link to="/pens/new" className="btn btn-primary">
            Bring in a pen
          </Link>
        )}
      </Head>
      <Problem error={pens.error} />
      {list.length === 0 ? (
        <Empty title="The drawer is empty">
          Rule a few lines with a pen, scan them at 300 dpi or more, and drop the scan. <Link to="/pens/new">Bring in a pen</Link>, or try it with a simulated
          one there.
        </Empty>
      ) : (
        <div className="lanes">
          {list.map((p) => {
            const efforts = p.card.widths_by_effort ?? [];
            const [lo, hi] = [efforts[0], efforts[efforts.length - 1]];
            const warn = p.card.warnings?.length ?? 0;
            return (
              <Link key={p.id} to={`/pens/${p.id}`} className="lane text-decoration-none" style={{ gridTemplateColumns: '230px 1fr 260px' }}>
                <div className="gutter">
                  <b>{p.name}</b>
                  <span>{p.card.note?.paper || 'paper not noted'}</span>
                </div>
                <div className="body d-flex align-items-center px-3" style={{ minHeight: 54, background: '#f4efe4' }}>
                  {p.line && <TrueLine line={p.line} scale={96 / 25.4} />}
                </div>
                <div className="tight px-3 py-2">
                  <b>
                    {lo && hi && hi !== lo
                      ? `${lo.width_mm.toFixed(2)} – ${hi.width_mm.toFixed(2)} mm`
                      : lo
                        ? `${lo.width_mm.toFixed(3)} mm`
                        : 'no effort noted'}
                  </b>
                  <div className="soft">
                    {efforts.length > 1 ? 'feather to hardest' : 'one effort'} · ragged {p.card.edge?.raggedness_um.toFixed(1) ?? '–'} µm
                    {warn ? ` · ${warn} note${warn > 1 ? 's' : ''}` : ''}
                  </div>
                </div>
              </Link>
            );
          })}
        </div>
      )}
    </div>
  );
}
