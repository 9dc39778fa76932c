// Transfer: the same intended strokes on every tablet of the team, without and with its profile.
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { pathOf } from '../lanes/Lane';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';

const NAMES = { ramp: 'From feather to hardest', swell: 'A swell', steps: 'Four steady efforts' } as const;

function Line({ widths, most, tint }: { widths: number[]; most: number; tint: string }) {
  const n = widths.length - 1;
  const shape = [...widths.map((w, i) => [i / n, w / 2]), ...widths.map((w, i) => [i / n, -w / 2]).reverse()];
  return (
    <svg viewBox={`0 ${-most / 2} 1000 ${most}`} preserveAspectRatio="none" style={{ width: '100%', height: 34, display: 'block' }} aria-hidden>
      <path
        d={pathOf(
          shape,
          (v) => v * 1000,
          (v) => v,
          true,
        )}
        fill={tint}
      />
    </svg>
  );
}

function Stroke({ t, profiles }: { t: Schemas['Transfer']; profiles: Schemas['TransferProfile'][] }) {
  const most = 1.15;
  const figure = (mm: number, share: number) => `${mm.toFixed(3)} mm, ${(100 * share).toFixed(1)} %`;
  const head = { gridTemplateColumns: '230px 1fr 1fr', background: 'var(--sill)' };
  return (
    <section className="mb-3">
      <h2 className="mb-1">
        {NAMES[t.stroke]}: the tablets disagree by {figure(t.raw_mm, t.raw_share)} as they are, {figure(t.corrected_mm, t.corrected_share)} through their
        profiles
      </h2>
      <div className="lanes">
        <div className="lane tight" style={head}>
          <div className="gutter soft">artist and tablet</div>
          <div className="px-2 py-1 soft">raw pressure taken as effort</div>
          <div className="px-2 py-1 soft">through the profile</div>
        </div>
        <div className="lane" style={{ gridTemplateColumns: '230px 1fr 1fr' }}>
          <div className="gutter">
            <b>intended effort</b>
          </div>
          <div className="body px-2" />
          <div className="body px-2">
            <Line widths={t.intended_mm} most={most} tint="var(--ink-faint)" />
          </div>
        </div>
        {t.lines.map((l) => {
          const p = profiles[l.profile];
          return (
            <div className="lane" key={l.profile} style={{ gridTemplateColumns: '230px 1fr 1fr' }}>
              <div className="gutter">
                <b>{p?.artist}</b>
                <span>
                  <Link to={`/tablets/${p?.id}`}>{p?.tablet}</Link>
                </span>
              </div>
              <div className="body px-2">
                <Line widths={l.raw_mm} most={most} tint="var(--ink)" />
              </div>
              <div className="body px-2">
                <Line widths={l.corrected_mm} most={most} tint="var(--ink)" />
              </div>
            </div>
          );
        })}
      </div>
    </section>
  );
}

export function Transfer() {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const found = useQuery({ queryKey: ['transfer', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/transfer', { params })) });
  if (found.isLoading) return <Loading what="the team's tablets" />;
  const t = found.data;
  return (
    <div className="page">
      <Head
        title="The same stroke on all tablets"
        says="the same intended effort, inked by a pen from 0.1 to 1 mm: what each tablet would report of it by its own profile; the newest profile of each artist on each tablet"
      />
      <Problem error={found.error} />
      {t && t.profiles.length < 2 ? (
        <Empty title="One tablet has nothing to be compared with">
          Two profiles are needed. <Link to="/tablets/warm-up">Warm up on another tablet</Link>, or let the simulated stylus do it there.
        </Empty>
      ) : (
        t?.strokes.map((s) => <Stroke key={s.stroke} t={s} profiles={t.profiles} />)
      )}
    </div>
  );
}
