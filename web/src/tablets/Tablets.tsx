// Tablets: each profile as its response over what the artist really used.

import { Link } from 'react-router';
import { useProfiles } from '../parts/lists';
import { day, Empty, Head, Loading, Problem } from '../parts/states';
import { useMayChange } from '../session';
import { Response } from './Response';

export function Tablets() {
  const profiles = useProfiles();
  const may = useMayChange();
  if (profiles.isLoading) return <Loading what="the tablets" />;
  const list = profiles.data ?? [];
  return (
    <div className="page">
      <Head
        title={list.length === 1 ? '1 tablet profile' : `${list.length} tablet profiles`}
        says="response: raw pressure across, effort upward; grey: how often each pressure was used"
      >
        {list.length > 1 && (
          <Link to="/tablets/transfer" className="btn btn-paper">
            The same stroke on all tablets
          </Link>
        )}
        {may && (
          <Link to="/tablets/warm-up" className="btn btn-primary">
            Warm up on a tablet
          </Link>
        )}
      </Head>
      <Problem error={profiles.error} />
      {list.length === 0 ? (
        <Empty title="No tablet has been warmed up on">
          Draw five efforts and a ramp; the profile says how your hand and your tablet answer. <Link to="/tablets/warm-up">Warm up</Link>, or let the simulated
          stylus do it there.
        </Empty>
      ) : (
        <div style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(290px, 1fr))', gap: 10 }}>
          {list.map((p) => (
            <Link key={p.id} to={`/tablets/${p.id}`} className="card-plain text-decoration-none">
              <b>{p.artist}</b>
              <div className="soft tight">
                {p.tablet} · {day(p.kept_at)}
              </div>
              <Response profile={p.profile} used={p.used} height={150} />
              <div className="tight">
                {p.profile.report_rate_hz.toFixed(0)} Hz · {p.profile.pressure_steps ? `${p.profile.pressure_steps} steps` : 'steps not known'} · full point{' '}
                {p.profile.full_point.toFixed(2)}
                {p.profile.full_point_seen ? '' : ', no plateau seen'}
              </div>
              {p.profile.advice[0] && <div className="soft tight mt-1">{p.profile.advice[0]}</div>}
            </Link>
          ))}
        </div>
      )}
    </div>
  );
}
