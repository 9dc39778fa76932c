// The blind proof: lines of the pen and of the brush, one at a time, in an order that no one knows.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { Button } from 'react-bootstrap';
import { Link, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { pathOf } from '../lanes/Lane';
import { useKeys } from '../parts/keys';
import { useLasting } from '../parts/lasting';
import { takeBrush } from '../parts/lists';
import { ThroughTablet, useMyTablet } from '../parts/myTablet';
import { day, Head, Loading, Problem } from '../parts/states';
import { useMayChange, useOpen } from '../session';

type Half = { proof: Schemas['BlindView'] | null; said: boolean[] };
const NOTHING: Half = { proof: null, said: [] };

export function Blind() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const may = useMayChange();
  const tablet = useMyTablet();
  const client = useQueryClient();
  const at = { production: production.id, id };
  const view = useQuery({ queryKey: ['brush', id], queryFn: () => takeBrush(production.id, id) });
  const kept = useQuery({
    queryKey: ['blind', id],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/brushes/{id}/blind', { params: { path: at } })),
  });
  // A half proof is there again after a reload.
  const [half, setHalf] = useLasting<Half>(`blind-${id}`, NOTHING);
  const { proof, said } = half;
  const setSaid = (to: boolean[]) => setHalf((h) => ({ ...h, said: to }));
  const begin = useMutation({
    mutationFn: (version: number) =>
      take(
        api.POST('/api/v1/productions/{production}/brushes/{id}/versions/{version}/blind', {
          params: { path: { ...at, version } },
          body: { profile: tablet.profile?.id ?? null },
        }),
      ),
    onSuccess: (p) => {
      setHalf({ proof: p, said: [] });
      answer.reset();
    },
  });
  const answer = useMutation({
    mutationFn: (of_pen: boolean[]) =>
      take(api.POST('/api/v1/productions/{production}/brushes/{id}/blind/{proof}', { params: { path: { ...at, proof: proof?.id ?? '' } }, body: { of_pen } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['blind', id] }),
    // What was answered is not asked again.
    onError: () => setHalf(NOTHING),
  });
  const say = (pen: boolean) => {
    if (!proof || said.length >= proof.lines.length) return;
    const next = [...said, pen];
    setSaid(next);
    if (next.length === proof.lines.length) answer.mutate(next);
  };
  useKeys({
    arrowleft: () => say(true),
    arrowright: () => say(false),
    backspace: () => proof && said.length < proof.lines.length && setSaid(said.slice(0, -1)),
  });
  if (view.isLoading) return <Loading what="the brush" />;
  const b = view.data;
  const line = proof?.lines[said.length];
  const width = proof?.length_mm ?? 40;
  const tall = Math.max(0.6, ...(proof?.lines ?? []).flatMap((l) => l.paths.flat().map((p) => Math.abs(p[1] ?? 0)))) * 1.8;
  const shape = (l: Schemas['FlatLine'], label: string, height: number) => (
    <svg viewBox={`0 ${-tall} ${width} ${2 * tall}`} height={height} width="100%" role="img" aria-label={label} style={{ background: '#f6f4ee' }}>
      <path
        d={l.paths
          .map((p) =>
            pathOf(
              p,
              (x) => x,
              (y) => y,
              true,
            ),
          )
          .join('')}
        fill="#26232a"
      />
    </svg>
  );
  return (
    <div className="page">
      <Head
        title={b ? `Blind proof of ${b.name}` : 'Blind proof'}
        says={
          b?.pen ? `can you tell ${b.pen.name} from the brush? Lines of both between their own edges, the same ink on the same ground, ${width} mm each` : ''
        }
        state={answer.data ? <b>{answer.data.result.says}</b> : undefined}
      >
        <Link className="btn btn-paper" to={`/brushes/${id}`}>
          Back to the bench
        </Link>
        {may && b && !line && (
          <Button disabled={begin.isPending} onClick={() => begin.mutate(b.current_version)}>
            {proof ? 'Another proof' : `Begin with version ${b.current_version}`}
          </Button>
        )}
      </Head>
      <Problem error={view.error ?? begin.error ?? answer.error} />
      {!line && (
        <div className="mb-2">
          <ThroughTablet />
        </div>
      )}
      {line && proof && (
        <div className="card-plain">
          <div className="d-flex justify-content-between">
            <h2>
              Line {said.length + 1} of {proof.lines.length}
            </h2>
            <span className="soft tight">left arrow: pen · right arrow: brush · backspace: the last one again</span>
          </div>
          {shape(line, `line ${said.length + 1}`, 220)}
          <div className="d-flex gap-3 justify-content-center mt-3">
            <Button variant="paper" style={{ minWidth: 180, minHeight: 44 }} onClick={() => say(true)}>
              The pen’s
            </Button>
            <Button variant="paper" style={{ minWidth: 180, minHeight: 44 }} onClick={() => say(false)}>
              The brush’s
            </Button>
          </div>
        </div>
      )}
      {answer.data && proof && (
        <div className="card-plain mb-2">
          <h2>What they were</h2>
          <div style={{ display: 'grid', gridTemplateColumns: 'repeat(4, 1fr)', gap: 8 }}>
            {proof.lines.map((l, i) => (
              <div key={i} className="tight">
                {shape(l, `line ${i + 1}`, 44)}
                {answer.data.of_pen[i] ? 'the pen’s' : 'the brush’s'}, <b>{answer.data.of_pen[i] === said[i] ? 'told' : 'not told'}</b>
              </div>
            ))}
          </div>
        </div>
      )}
      {!line && (
        <div className="card-plain">
          <h2>Proofs so far</h2>
          {kept.data?.length ? (
            <ul className="mb-0 tight">
              {kept.data.map((k, i) => (
                <li key={i}>
                  version {k.version}: <b>{k.result.says}</b>{' '}
                  <span className="soft">
                    {k.by}, {day(k.at)}
                  </span>
                </li>
              ))}
            </ul>
          ) : (
            <p className="soft mb-0">None yet. Twenty lines take about two minutes; the result is saved with the version.</p>
          )}
        </div>
      )}
    </div>
  );
}
