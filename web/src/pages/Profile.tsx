// One tablet profile.
import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { api, take } from '../api/client';
import { ProfileFigures, Response } from '../lanes/Response';
import { day, Head, Loading, Problem } from '../lanes/states';
import { useOpen } from '../session';

export function Profile() {
  const { id = '' } = useParams();
  const { production } = useOpen();
  const params = { path: { production: production.id, id } };
  const profile = useQuery({ queryKey: ['profile', id], queryFn: () => take(api.GET('/api/v1/productions/{production}/profiles/{id}', { params })) });
  if (profile.isLoading) return <Loading what="the profile" />;
  if (!profile.data)
    return (
      <div className="page">
        <Problem error={profile.error} />
      </div>
    );
  const p = profile.data;
  return (
    <div className="page">
      <Head title={`${p.artist} on the ${p.tablet}`} says={`warmed up on ${day(p.kept_at)}`}>
        <a className="btn btn-paper" href={`/api/v1/productions/${production.id}/profiles/${id}/warm-up`} download>
          Warm-up as InkML
        </a>
      </Head>
      <div className="d-flex gap-2 flex-wrap">
        <div className="card-plain" style={{ flex: '2 1 480px' }}>
          <h2>Response</h2>
          <div className="soft tight">raw pressure across, effort upward; grey: the pressures that were used; dashed: first ink and full point</div>
          <Response profile={p.profile} used={p.used} />
        </div>
        <div className="card-plain" style={{ flex: '1 1 280px' }}>
          <h2>What the device does</h2>
          <ProfileFigures profile={p.profile} />
        </div>
      </div>
    </div>
  );
}
