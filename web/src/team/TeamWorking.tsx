// The working behind one artist's weight in one role: possible causes, the correction, the charts, capability, and what only a sequence shows.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link, useNavigate } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { verdictWords } from '../parts/picture';
import { day, Loading, Problem, pair } from '../parts/states';
import { useOpen } from '../session';
import type { Ask } from './ask';
import { ControlChart } from './ControlChart';
import { TrimEffect } from './TrimEffect';

type Props = {
  name: string;
  role: string;
  ask: Ask;
  look: Schemas['TeamLook'];
  /** What was offered before. */
  trims: Schemas['TrimView'][];
  onLeave: () => void;
};

export function TeamWorking({ name, role, ask, look, trims, onLeave }: Props) {
  const { production } = useOpen();
  const head = useRef<HTMLHeadingElement>(null);
  const seen = useQuery({
    queryKey: ['team', production.id, 'working', name, role, ask],
    queryFn: () =>
      take(api.GET('/api/v1/productions/{production}/team/working/{name}/{role}', { params: { path: { production: production.id, name, role }, query: ask } })),
    retry: false,
  });
  useEffect(() => {
    if (seen.data) head.current?.scrollIntoView({ block: 'nearest' });
  }, [seen.data]);
  const w = seen.data?.working;
  const s = w?.standing;
  const [a, b] = s?.now_interval_px ?? [];
  // What was accepted last: while it is not known to have failed, it is shown with what it did, and not offered again.
  const accepted = trims.filter((t) => t.artist === name && t.role === role && t.state === 'taken').at(-1);
  const settled = accepted && accepted.outcome !== 'did-not' ? accepted : undefined;
  return (
    <section className="mt-3" aria-label={`the working behind ${name}, ${role}`}>
      <div className="d-flex align-items-baseline gap-3 mb-1">
        <h2 ref={head}>
          {name}, {role}
          {s ? `: ${s.now_px.toFixed(2)} px, ${verdictWords(s.verdict)}` : ''}
        </h2>
        {w && a !== undefined && b !== undefined && (
          <span className="soft tight">
            {a.toFixed(2)} to {b.toFixed(2)} px where {w.weight.target.toFixed(1)} ±{(100 * w.weight.tolerance).toFixed(0)} % is asked for
          </span>
        )}
        <button type="button" className="btn-word ms-auto" onClick={onLeave}>
          Close the working
        </button>
      </div>
      <Problem error={seen.error} />
      {seen.isLoading && <Loading what="the working" />}
      {w && (
        <>
          {(w.fits.length > 0 || w.trim || settled) && (
            <div className="two-up mb-2">
              <Fits fits={w.fits} />
              {settled && <TrimDone trim={settled} weight={w.weight} />}
              {w.trim && !settled && <TrimOffer view={seen.data as Schemas['WorkingView']} ask={ask} taken={look.by === 'artist'} />}
            </div>
          )}
          <ControlChart working={w} />
          <div className="two-up mt-2">
            <Capable working={w} />
            <InSequence seen={seen.data?.sequence ?? []} name={name} />
          </div>
        </>
      )}
    </section>
  );
}

function Fits({ fits }: { fits: Schemas['Fit'][] }) {
  return (
    <div className="card-plain">
      <h2>Possible causes</h2>
      {fits.length === 0 && <p className="soft mb-0">Nothing that drawings can carry: the cause is not known.</p>}
      {fits.map((f) => (
        <div key={f.says} className="fit">
          <div>{f.says}.</div>
          <div className="soft tight">How to find out: {f.settle}.</div>
        </div>
      ))}
    </div>
  );
}

function TrimDone({ trim, weight }: { trim: Schemas['TrimView']; weight: Schemas['Weight'] }) {
  return (
    <div className="card-plain" role="note">
      <h2>Weight correction</h2>
      <p className="mb-1">
        {trim.answered_by} accepted it{trim.answered_at ? `, ${day(trim.answered_at)}` : ''}. <b>{trim.outcome_says}</b>
      </p>
      <TrimEffect trim={trim.trim} weight={weight} />
      <Link to={`/team/trims/${trim.id}`} className="btn-word">
        See the correction
      </Link>
    </div>
  );
}

function TrimOffer({ view, ask, taken }: { view: Schemas['WorkingView']; ask: Ask; taken: boolean }) {
  const { production } = useOpen();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [onto, setOnto] = useState(view.carries[0]?.onto ?? 'brush');
  const trim = view.working.trim as Schemas['Trim'];
  const carry = view.carries.find((c) => c.onto === onto) ?? view.carries[0];
  const offer = useMutation({
    mutationFn: () =>
      take(
        api.POST('/api/v1/productions/{production}/trims', {
          params: { path: { production: production.id } },
          body: { artist: view.working.name, role: view.working.role, onto, of: ask as Schemas['TeamAsk'] },
        }),
      ),
    onSuccess: (made) => {
      client.invalidateQueries({ queryKey: ['team'] });
      client.invalidateQueries({ queryKey: ['trims'] });
      navigate(`/team/trims/${made.id}`);
    },
  });
  return (
    <div className="card-plain">
      <h2>Weight correction</h2>
      <TrimEffect trim={trim} weight={view.working.weight} />
      {view.no_carry && <p className="notice mb-1">It cannot be offered yet: {view.no_carry}.</p>}
      {view.carries.length > 0 && (
        <fieldset className="mt-1">
          <legend className="tight soft mb-0" style={{ fontSize: 'inherit' }}>
            carried onto
          </legend>
          {view.carries.map((c) => (
            <label key={c.onto} className="d-flex gap-2 align-items-baseline">
              <input type="radio" name="onto" checked={onto === c.onto} onChange={() => setOnto(c.onto)} />
              <span>{c.why}</span>
            </label>
          ))}
        </fieldset>
      )}
      <Problem error={offer.error} />
      {carry && production.part === 'lead' && taken && (
        <div className="mt-2 d-flex gap-3 align-items-center">
          <Button size="sm" disabled={offer.isPending} onClick={() => offer.mutate()}>
            Offer the correction to {view.working.name}
          </Button>
          <span className="soft tight">They accept or decline; nothing is changed for them.</span>
        </div>
      )}
    </div>
  );
}

function Capable({ working }: { working: Schemas['Working'] }) {
  const c = working.capability;
  const share = (v: number) => (v < 0.001 ? 'fewer than 1 in 1,000' : `about ${(100 * v).toFixed(v < 0.1 ? 1 : 0)} in 100`);
  return (
    <div className="card-plain">
      <h2>Capability</h2>
      {!c ? (
        <p className="soft mb-0">Six drawings that differ are needed.</p>
      ) : (
        <>
          <div>
            As it is, {share(c.outside)} drawings would lie outside the tolerance; with the mean on the target, {share(c.outside_centred)}.
          </div>
          <div className="soft tight">
            C<sub>p</sub> {c.cp.toFixed(2)} ({pair(c.cp_interval)[0].toFixed(2)} to {pair(c.cp_interval)[1].toFixed(2)}), C<sub>pk</sub> {c.cpk.toFixed(2)} (
            {pair(c.cpk_interval)[0].toFixed(2)} to {pair(c.cpk_interval)[1].toFixed(2)}) over {working.standing.since?.drawings ?? working.points.length}{' '}
            drawings
          </div>
        </>
      )}
    </div>
  );
}

function InSequence({ seen, name }: { seen: Schemas['SequenceSeen'][]; name: string }) {
  return (
    <div className="card-plain">
      <h2>Drift and boil</h2>
      {seen.length === 0 && <p className="soft mb-0">None was found in {name}’s sequences.</p>}
      {seen.map((s) => (
        <div key={s.delivery_name + s.message}>
          {s.message}{' '}
          <Link to={`/checks/${s.delivery}${s.drawing ? `?drawing=${s.drawing}` : ''}`} className="text-nowrap">
            {s.delivery_name}
          </Link>
        </div>
      ))}
    </div>
  );
}
