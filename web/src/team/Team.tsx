// The team: first who differs, in sentences; then artists by roles as dots on the band; then, for those who ask, the working.
import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { type Ask, askOf } from './ask';
import { TeamGrid } from './TeamGrid';
import { TeamVariance } from './TeamVariance';
import { TeamWorking } from './TeamWorking';

function Choice({ label, value, onPick, children }: { label: string; value: string; onPick: (v: string) => void; children: React.ReactNode }) {
  return (
    <label className="d-flex flex-column">
      <span className="soft">{label}</span>
      <select className="form-select form-select-sm" value={value} onChange={(e) => onPick(e.target.value)}>
        {children}
      </select>
    </label>
  );
}

/** Which drawings are looked at, and group by what. */
function Asked({ team, ask, set }: { team: Schemas['TeamView']; ask: Ask; set: (v: Partial<Record<keyof Ask, string>>) => void }) {
  const date = (k: 'from' | 'to', label: string) => (
    <label className="d-flex flex-column">
      <span className="soft">{label}</span>
      <input
        type="date"
        className="form-control form-control-sm"
        value={ask[k] ?? ''}
        min={team.days?.[0]}
        max={team.days?.[1]}
        onChange={(e) => set({ [k]: e.target.value })}
      />
    </label>
  );
  return (
    <div className="d-flex flex-wrap gap-3 align-items-end mb-2">
      <Choice label="group by" value={ask.by ?? 'artist'} onPick={(by) => set({ by: by === 'artist' ? '' : by })}>
        <option value="artist">artist</option>
        <option value="tablet">tablet</option>
        <option value="brush">brush</option>
      </Choice>
      <Choice label="delivery" value={ask.delivery ?? ''} onPick={(delivery) => set({ delivery })}>
        <option value="">all, each drawing’s first take</option>
        {team.deliveries.map((d) => (
          <option key={d.id} value={d.id}>
            {d.name}
          </option>
        ))}
      </Choice>
      <Choice label="shot" value={ask.shot ?? ''} onPick={(shot) => set({ shot })}>
        <option value="">all shots</option>
        {team.shots.map((s) => (
          <option key={s}>{s}</option>
        ))}
      </Choice>
      {date('from', 'from')}
      {date('to', 'to')}
      {team.guides.length > 1 && (
        <Choice label="checked against" value={team.guide?.id ?? ''} onPick={(guide) => set({ guide })}>
          {team.guides.map((g) => (
            <option key={g.id} value={g.id}>
              {g.name}
            </option>
          ))}
        </Choice>
      )}
      {Object.keys(ask).length > 0 && (
        <button type="button" className="btn-word" onClick={() => set({ guide: '', delivery: '', shot: '', from: '', to: '', by: '' })}>
          Show everything
        </button>
      )}
    </div>
  );
}

export function Team() {
  const { production } = useOpen();
  const [search, setSearch] = useSearchParams();
  const ask = askOf(search);
  const path = { production: production.id };
  const team = useQuery({
    queryKey: ['team', production.id, ask],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/team', { params: { path, query: ask } })),
    placeholderData: (before) => before,
  });
  const [name, role] = [search.get('name'), search.get('role')];
  const change = (v: Record<string, string | undefined>) => {
    const next = new URLSearchParams(search);
    for (const [k, to] of Object.entries(v)) {
      if (to) next.set(k, to);
      else next.delete(k);
    }
    setSearch(next, { replace: true });
  };
  if (team.isLoading) return <Loading what="the team" />;
  const t = team.data;
  const look = t?.look;
  const one = look?.by === 'artist' ? 'artist' : look?.by;
  const says = look?.sentences.length ?? 0;
  const title = !look?.groups.length
    ? 'Nobody is known yet'
    : says === 0
      ? 'Nobody differs'
      : says === 1
        ? `1 ${one} differs`
        : `${says} ${one === 'brush' ? 'brushes' : `${one}s`} differ`;
  const query = new URLSearchParams(ask as Record<string, string>).toString();
  const report = (kind: string, paper?: string) => `/api/v1/productions/${production.id}/team/report/${kind}?${query}${paper ? `&paper=${paper}` : ''}`;
  const open = t?.trims.filter((x) => x.state === 'offered' || x.outcome).slice(0, 6) ?? [];
  return (
    <div className="page">
      <Head title={title} says={look ? `${look.drawings} drawings checked against ${t?.guide?.name}, version ${t?.guide?.version}` : undefined}>
        {!!look?.drawings && (
          <span className="d-flex gap-3 align-items-center tight">
            <span className="soft">Report</span>
            <a href={report('pdf', 'a4')}>PDF, A4</a>
            <a href={report('pdf', 'letter')}>PDF, Letter</a>
            <a href={report('csv')}>CSV</a>
          </span>
        )}
      </Head>
      <Problem error={team.error} />
      {look?.sentences.map((s) => (
        <div key={s.name} className="sentence">
          <span className="fw-semibold">{s.says}</span>
          <button type="button" className="btn btn-sm btn-paper" onClick={() => change({ name: s.name, role: s.roles[0] })}>
            See possible causes
          </button>
        </div>
      ))}
      {open.map((x) => (
        <div key={x.id} className="sentence quiet">
          <span>
            {x.state === 'offered'
              ? `A weight correction of ${x.role} is offered to ${x.artist}; it waits for an answer`
              : `${x.artist}, weight correction of ${x.role}: ${x.outcome_says}`}
          </span>
          <Link to={`/team/trims/${x.id}`} className="btn-word">
            See the correction
          </Link>
        </div>
      ))}
      {t && <div className="mt-2" />}
      {t && <Asked team={t} ask={ask} set={change} />}
      {!look?.drawings ? (
        <Empty title="No measured drawing is among these">
          <Link to="/checks">Check a delivery</Link> whose file names or manifest say who drew what, or look at other deliveries, shots and days.
        </Empty>
      ) : (
        <>
          {look.not_known > 0 && (
            <p className="notice">
              {look.not_known} of {look.drawings} drawings do not say which {look.by} they are by: give the manifest the column {look.by}.
            </p>
          )}
          {look.groups.length > 0 && <TeamGrid look={look} picked={name && role ? { name, role } : null} onPick={(n, r) => change({ name: n, role: r })} />}
          {name && role && (
            <TeamWorking
              key={`${name} ${role}`}
              name={name}
              role={role}
              ask={ask}
              look={look}
              trims={t?.trims ?? []}
              onLeave={() => change({ name: '', role: '' })}
            />
          )}
          {look.groups.length > 0 && <TeamVariance look={look} />}
        </>
      )}
    </div>
  );
}
