// The pen roll: what each line role of the production is inked with, in the order of the passes.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button } from 'react-bootstrap';
import { Link } from 'react-router';
import { api, type Schemas, take } from '../api/client';
import { Conflict } from '../parts/Conflict';
import { Figure } from '../parts/Figure';
import { otherSide } from '../parts/stale';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

type Item = Schemas['RollItem'];

function RollWords({ roll }: { roll: Item[] }) {
  return <div className="tight">{roll.map((r) => `${r.role}: ${r.brush}, version ${r.version}`).join(' · ') || 'no role has a brush'}</div>;
}

export function PenRoll({ rack }: { rack: Schemas['BrushSummary'][] }) {
  const { production } = useOpen();
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const may = production.part === 'lead';
  const kept = useQuery({ queryKey: ['roll', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/roll', { params })) });
  const guides = useQuery({ queryKey: ['guides', production.id], queryFn: () => take(api.GET('/api/v1/productions/{production}/guides', { params })) });
  const [roll, setRoll] = useState<Item[] | null>(null);
  useEffect(() => {
    if (!roll && kept.data) setRoll(kept.data);
  }, [kept.data, roll]);
  const [theirs, setTheirs] = useState<Item[] | null>(null);
  const save = useMutation({
    mutationFn: (roll: Item[]) => take(api.PUT('/api/v1/productions/{production}/roll', { params, body: { roll, seen: kept.data ?? [] } })),
    // Somebody else changed it: theirs is fetched, so that keeping one's own again is a choice made knowingly.
    onError: (e) => {
      setTheirs(otherSide<Item[]>(e));
      void kept.refetch();
    },
    onSuccess: (fresh) => {
      setTheirs(null);
      setRoll(fresh);
      client.setQueryData(['roll', production.id], fresh);
      client.invalidateQueries({ queryKey: ['brushes'] });
    },
  });
  const items = roll ?? [];
  const changed = JSON.stringify(items) !== JSON.stringify(kept.data ?? []);
  const set = (i: number, v: Partial<Item>) => setRoll(items.map((x, k) => (k === i ? { ...x, ...v } : x)));
  const guide = guides.data?.[0]?.guide;
  const roles = (guide?.roles ?? []).filter((r) => r.judge !== false && !items.some((x) => x.role === r.name));
  const move = (i: number, by: number) => {
    const next = [...items];
    const [one] = next.splice(i, 1);
    if (one) next.splice(i + by, 0, one);
    setRoll(next);
  };
  return (
    <section className="card-plain mb-2">
      <div className="d-flex align-items-baseline gap-3">
        <h2>Pen roll</h2>
        <span className="soft tight">what each line role is inked with, in the order of the passes{may ? '' : ' · set by the lead'}</span>
        {may && changed && (
          <span className="ms-auto d-flex gap-2">
            <button type="button" className="btn-word" onClick={() => setRoll(kept.data ?? [])}>
              Cancel
            </button>
            <Button size="sm" variant="paper" disabled={save.isPending} onClick={() => save.mutate(items)}>
              Save pen roll
            </Button>
          </span>
        )}
      </div>
      <Problem error={kept.error ?? (theirs ? null : save.error)} />
      {theirs && (
        <Conflict
          what="the pen roll"
          keep="Save mine"
          busy={save.isPending || kept.isFetching}
          mine={<RollWords roll={items} />}
          theirs={<RollWords roll={theirs} />}
          onMine={() => save.mutate(items)}
          onTheirs={() => {
            setRoll(theirs);
            setTheirs(null);
          }}
        />
      )}
      {items.length === 0 && <p className="soft mb-1">No role has a brush yet.{may ? ' Add a role of the line guide.' : ''}</p>}
      {items.length > 0 && (
        <table className="w-100 tight">
          <thead>
            <tr className="soft">
              <th>pass</th>
              <th>line role</th>
              <th>brush</th>
              <th>version</th>
              <th>colour</th>
              <th>weight factor</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {items.map((x, i) => {
              const b = rack.find((r) => r.id === x.brush_id);
              const own = guide?.roles.find((r) => r.name === x.role)?.from;
              return (
                <tr key={x.role}>
                  <td>{i + 1}</td>
                  <td>
                    <b>{x.role}</b>
                  </td>
                  <td>
                    {may ? (
                      <select
                        className="form-select form-select-sm tight w-auto"
                        aria-label={`brush of ${x.role}`}
                        value={x.brush_id}
                        onChange={(e) => set(i, { brush_id: e.target.value, version: rack.find((r) => r.id === e.target.value)?.current_version ?? 1 })}
                      >
                        {rack.map((r) => (
                          <option key={r.id} value={r.id}>
                            {r.name}
                          </option>
                        ))}
                      </select>
                    ) : (
                      <Link to={`/brushes/${x.brush_id}`}>{b?.name}</Link>
                    )}
                  </td>
                  <td>
                    {x.version}
                    {b && b.current_version !== x.version && (
                      <button type="button" className="btn-word ms-2" disabled={!may} onClick={() => set(i, { version: b.current_version })}>
                        Use {b.current_version}
                      </button>
                    )}
                  </td>
                  <td>
                    <input
                      type="color"
                      aria-label={`colour of ${x.role}`}
                      disabled={!may}
                      value={x.colour ?? b?.brush.colour ?? '#000000'}
                      onChange={(e) => set(i, { colour: e.target.value })}
                    />{' '}
                    {own && 'colour' in own && own.colour && x.colour !== own.colour && (
                      <button type="button" className="btn-word" disabled={!may} onClick={() => set(i, { colour: own.colour as string })}>
                        the guide’s
                      </button>
                    )}
                  </td>
                  <td>
                    <Figure
                      value={x.weight_factor}
                      digits={2}
                      label={`weight factor of ${x.role}`}
                      disabled={!may}
                      onValue={(v) => set(i, { weight_factor: v })}
                    />{' '}
                    ×
                  </td>
                  <td className="text-end">
                    {may && (
                      <span className="d-inline-flex gap-3">
                        <button type="button" className="btn-word" disabled={i === 0} aria-label={`${x.role}: earlier`} onClick={() => move(i, -1)}>
                          earlier
                        </button>
                        <button type="button" className="btn-word" disabled={i === items.length - 1} aria-label={`${x.role}: later`} onClick={() => move(i, 1)}>
                          later
                        </button>
                        <button
                          type="button"
                          className="btn-word"
                          aria-label={`${x.role}: remove from the roll`}
                          onClick={() => setRoll(items.filter((_, k) => k !== i))}
                        >
                          Remove
                        </button>
                      </span>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {may && rack.length > 0 && roles.length > 0 && (
        <select
          className="form-select form-select-sm tight w-auto mt-1"
          aria-label="add a role to the roll"
          value=""
          onChange={(e) => {
            const role = roles.find((r) => r.name === e.target.value);
            const b = rack[0];
            if (!role || !b) return;
            const colour = 'colour' in role.from && role.from.colour ? (role.from.colour as string) : undefined;
            setRoll([
              ...items,
              { role: role.name, brush_id: b.id, brush: b.name, version: b.current_version, current_version: b.current_version, colour, weight_factor: 1 },
            ]);
          }}
        >
          <option value="">add a line role…</option>
          {roles.map((r) => (
            <option key={r.name} value={r.name}>
              {r.name}
            </option>
          ))}
        </select>
      )}
    </section>
  );
}
