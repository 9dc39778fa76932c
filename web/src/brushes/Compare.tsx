// Any two versions of a brush on the same strokes, one under the other and laid over each other.
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { ProofFigures } from '../lanes/ProofFigures';
import { takeBrush } from '../parts/lists';
import { day, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { changes } from './useBrush';

export function Compare() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const view = useQuery({
    queryKey: ['brush', id],
    queryFn: () => takeBrush(production.id, id),
  });
  const [chosen, setChosen] = useState<[number, number] | null>(null);
  if (view.isLoading) return <Loading what="the versions" />;
  const b = view.data;
  if (!b)
    return (
      <div className="page">
        <Problem error={view.error} />
      </div>
    );
  const [a = 1, c = 1] = chosen ?? [b.versions[1]?.version ?? b.versions[0]?.version ?? 1, b.versions[0]?.version ?? 1];
  const [first, second] = [b.versions.find((v) => v.version === a), b.versions.find((v) => v.version === c)];
  const pick = (k: 0 | 1, label: string) => (
    <label className="tight">
      {label}{' '}
      <select
        className="form-select form-select-sm d-inline-block w-auto"
        value={k ? c : a}
        onChange={(e) => setChosen(k ? [a, Number(e.target.value)] : [Number(e.target.value), c])}
      >
        {b.versions.map((v) => (
          <option key={v.version} value={v.version}>
            version {v.version}: {v.says} ({v.by}, {day(v.at)})
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <div className="page">
      <Head
        title={`${b.name}: version ${a} and version ${c}`}
        says={first && second ? (a === c ? 'the same version twice: choose another' : `what changed: ${changes(first.brush, second.brush)}`) : ''}
      >
        <Link className="btn btn-paper" to={`/brushes/${id}`}>
          Back to the bench
        </Link>
      </Head>
      <div className="d-flex gap-4 mb-2">
        {pick(0, 'first')}
        {pick(1, 'second')}
      </div>
      {first && second && (
        <>
          <section className="card-plain mb-2">
            <h2>Version {a}</h2>
            <ProofFigures brush={first.brush} label={`proof figures of version ${a}`} />
          </section>
          <section className="card-plain mb-2">
            <h2>Version {c}</h2>
            <ProofFigures brush={second.brush} label={`proof figures of version ${c}`} />
          </section>
          <section className="card-plain mb-2">
            <h2>One over the other</h2>
            <p className="soft tight mb-0">
              Ink where both are; <span className="thin">blue where only version {a} is</span>;{' '}
              <span className="heavy">vermilion where only version {c} is</span>.
            </p>
            <ProofFigures brush={first.brush} label="both versions laid over one another" over={{ brush: second.brush, colour: '#e0533a', under: '#3f7fbf' }} />
          </section>
        </>
      )}
    </div>
  );
}
