// One weight correction: what it would do on the artist's own lines and on the proof figures; the artist accepts or declines; then, whether it worked.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'react-bootstrap';
import { Link, useParams } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { ProofFigures } from '../lanes/ProofFigures';
import { takeBrush } from '../parts/lists';
import { day, Head, Loading, Problem } from '../parts/states';
import { useOpen } from '../session';
import { TrimEffect } from './TrimEffect';

export function TrimPage() {
  const { production } = useOpen();
  const { id } = useParams();
  const client = useQueryClient();
  const path = { production: production.id };
  const trims = useQuery({ queryKey: ['trims', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/trims', { params: { path } })) });
  const t = trims.data?.find((x) => x.id === id);
  const guides = useQuery({
    queryKey: ['guides', production.id],
    queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params: { path } })),
  });
  const brush = useQuery({
    queryKey: ['brush', t?.brush_id],
    enabled: !!t,
    queryFn: () => takeBrush(production.id, t?.brush_id ?? ''),
  });
  const answer = useMutation({
    mutationFn: async (what: 'take' | 'leave') => {
      const params = { path: { ...path, id: id ?? '' } };
      if (what === 'take') await take(api.POST('/api/v1/productions/{production}/trims/{id}/take', { params }));
      else await take(api.DELETE('/api/v1/productions/{production}/trims/{id}', { params }));
    },
    onSettled: () => {
      for (const k of ['trims', 'team', 'desk', 'brushes', 'profiles']) client.invalidateQueries({ queryKey: [k] });
    },
  });
  if (trims.isLoading) return <Loading what="the correction" />;
  if (!t)
    return (
      <div className="page">
        <Problem error={trims.error ?? new Error('There is no such weight correction. The team’s page lists those that were offered.')} />
      </div>
    );
  const role = guides.data?.find((g) => g.id === t.guide_id)?.guide.roles.find((r) => r.name === t.role);
  const now = brush.data?.versions.find((v) => v.version === t.brush_version)?.brush;
  const lead = production.part === 'lead';
  const state: Record<string, string> = {
    offered: t.mine ? 'is offered to you' : `waits for ${t.artist}`,
    taken: 'was accepted',
    declined: 'was declined',
    withdrawn: 'was withdrawn',
  };
  return (
    <div className="page">
      <Head title={`The weight correction of ${t.role} ${state[t.state] ?? t.state}`} says={`offered by ${t.by}, ${day(t.at)} · ${t.says}`}>
        {t.state === 'offered' && t.mine && (
          <span className="d-flex gap-2">
            <Button variant="paper" disabled={answer.isPending} onClick={() => answer.mutate('leave')}>
              Decline
            </Button>
            <Button disabled={answer.isPending} onClick={() => answer.mutate('take')}>
              Accept
            </Button>
          </span>
        )}
        {t.state === 'offered' && !t.mine && lead && (
          <Button variant="paper" disabled={answer.isPending} onClick={() => answer.mutate('leave')}>
            Withdraw offer
          </Button>
        )}
        {t.state === 'taken' && t.made && (
          <Link className="btn btn-paper" to={t.onto === 'brush' ? `/brushes/${t.made}` : `/tablets/${t.made}`}>
            {t.onto === 'brush' ? 'To the brush' : 'To the profile'}
          </Link>
        )}
      </Head>
      <Problem error={answer.error} />
      {t.outcome_says && <p className={t.outcome === 'did-not' ? 'notice' : 'fw-semibold'}>{t.outcome_says}.</p>}
      {t.state !== 'offered' && t.answered_by && (
        <p className="soft">
          {t.state === 'taken' ? 'accepted' : t.state} by {t.answered_by}
          {t.answered_at ? `, ${day(t.answered_at)}` : ''}
        </p>
      )}
      <p>
        {t.onto === 'brush'
          ? `Accepting it makes a brush of ${t.mine ? 'your' : 'their'} own from ${t.brush}, version ${t.brush_version}. Nobody else’s brush changes, and the brush it is made from stays.`
          : `Accepting it saves the profile of the ${t.tablet ?? 'tablet'} again with this response: every brush on it follows. The earlier profile stays.`}
      </p>
      <div className="two-up">
        <div className="card-plain">
          <h2>On the lines already measured</h2>
          {role?.weight_px && <TrimEffect trim={t.trim} weight={role.weight_px} />}
        </div>
        <div className="card-plain">
          <h2>{t.onto === 'brush' ? 'Weight by effort' : 'Effort by raw pressure'}</h2>
          {now && <Curves trim={t} before={t.onto === 'brush' ? (now.weight as [number, number][]) : null} />}
        </div>
      </div>
      {now && t.onto === 'brush' && (
        <div className="lanes mt-2">
          {(
            [
              ['as it is', now],
              ['with the correction', { ...now, weight: t.curve }],
            ] as const
          ).map(([label, b]) => (
            <div key={label} className="lane-row">
              <div className="gutter">
                <b>{label}</b>
                <span>the proof figures, by the same efforts</span>
              </div>
              <div className="plot">
                <ProofFigures brush={b as Schemas['Brush']} label={`proof figures ${label}`} />
              </div>
            </div>
          ))}
        </div>
      )}
    </div>
  );
}

/** Two curves over one another: as it is, thin; with the correction, in the action's colour. */
function Curves({ trim, before }: { trim: Schemas['TrimView']; before: [number, number][] | null }) {
  const [w, h] = [420, 150];
  const all = [...trim.curve, ...(before ?? [])] as [number, number][];
  const most = Math.max(...all.map((p) => p[1]));
  const d = (c: [number, number][]) => c.map((p, i) => `${i ? 'L' : 'M'}${(p[0] * w).toFixed(1)} ${(h - 4 - (p[1] / most) * (h - 12)).toFixed(1)}`).join('');
  const unit = trim.onto === 'brush' ? 'mm' : '';
  const last = (c: [number, number][]) => `${c[c.length - 1]?.[1].toFixed(2)} ${unit}`.trim();
  return (
    <>
      <svg viewBox={`0 0 ${w} ${h}`} width="100%" role="img" aria-label="the curve as it is and with the correction">
        <line x1="0" x2={w} y1={h - 4} y2={h - 4} stroke="var(--hairline)" />
        {before && <path d={d(before)} fill="none" stroke="var(--ink-soft)" strokeWidth="1.5" strokeDasharray="5 4" />}
        <path d={d(trim.curve as [number, number][])} fill="none" stroke="var(--eddy)" strokeWidth="2.5" />
      </svg>
      <div className="soft tight">
        across: {trim.onto === 'brush' ? 'effort' : 'raw pressure'} 0 to 1; {before && `as it is (dashed) up to ${last(before)}; `}with the correction up to{' '}
        {last(trim.curve as [number, number][])}
      </div>
    </>
  );
}
