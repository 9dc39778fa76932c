// Cards of how the line is led and edged: smoothing with its price, the edge, opacity and random width.
import { useMemo } from 'react';
import type { Schemas } from '../api/client';
import { stripMismatch } from '../engine/engine';
import { Card, type CardProps, FigureRow, Switch } from './Card';

type Kind = Schemas['SmoothingKind'];

const KINDS: Record<Kind['kind'], { label: string; says: string; make: () => Kind }> = {
  none: { label: 'none', says: 'The line goes where the stylus went.', make: () => ({ kind: 'none' }) },
  adaptive: {
    label: 'adaptive',
    says: 'Steadies slow strokes, follows fast ones.',
    make: () => ({ kind: 'adaptive', min_cutoff_hz: 3, speed_coefficient: 0.05 }),
  },
  average: { label: 'average', says: 'The mean of a short while; centred when the pen lifts.', make: () => ({ kind: 'average', span_ms: 40 }) },
  tow: { label: 'tow', says: 'The nib moves when the pen pulls away from it.', make: () => ({ kind: 'tow', slack_mm: 0.8 }) },
  faired: { label: 'after the stroke', says: 'Drawn again as smooth curves when the pen lifts.', make: () => ({ kind: 'faired', tolerance_mm: 0.1 }) },
};

type SmoothingProps = CardProps & { trade: Schemas['Trade'] | null | undefined /** What the last match said of it. */; matched: string | null };

export function SmoothingCard({ brush, change, may, match, trade, matched }: SmoothingProps) {
  const p: Kind = brush.smoothing?.position ?? { kind: 'none' };
  const effort: Kind = brush.smoothing?.effort ?? { kind: 'none' };
  const put = (v: Partial<Schemas['Smoothing']>) => {
    const next = { ...brush.smoothing, ...v };
    const idle = (k: Kind | undefined) => !k || k.kind === 'none';
    change({ ...brush, smoothing: idle(next.position) && idle(next.effort) && !next.lift_guard_ms ? undefined : next });
  };
  return (
    <Card title="Smoothing" part="smoothing" match={match} may={may}>
      <select
        className="form-select form-select-sm tight"
        aria-label="smoothing of position"
        disabled={!may}
        value={p.kind}
        onChange={(e) => put({ position: KINDS[e.target.value as Kind['kind']].make() })}
      >
        {Object.entries(KINDS).map(([k, v]) => (
          <option key={k} value={k}>
            {v.label}
          </option>
        ))}
      </select>
      <p className="soft tight mb-1">{KINDS[p.kind].says}</p>
      {p.kind === 'adaptive' && (
        <>
          <FigureRow
            name="filter when slow"
            value={p.min_cutoff_hz}
            digits={1}
            label="filter when slow in Hz"
            range={[0.01, 1000]}
            disabled={!may}
            onValue={(v) => put({ position: { ...p, min_cutoff_hz: v } })}
          >
            {' '}
            Hz
          </FigureRow>
          <FigureRow
            name="eases with speed"
            value={p.speed_coefficient}
            digits={3}
            label="eases with speed"
            range={[0, 100]}
            disabled={!may}
            onValue={(v) => put({ position: { ...p, speed_coefficient: v } })}
          />
        </>
      )}
      {p.kind === 'average' && (
        <FigureRow
          name="over"
          value={p.span_ms}
          digits={0}
          label="averaged over, in ms"
          range={[0, 10000]}
          disabled={!may}
          onValue={(v) => put({ position: { ...p, span_ms: v } })}
          unit="ms"
        />
      )}
      {p.kind === 'tow' && (
        <FigureRow
          name="follows at"
          value={p.slack_mm}
          digits={2}
          label="follows at, in mm"
          range={[0, 100]}
          disabled={!may}
          onValue={(v) => put({ position: { ...p, slack_mm: v } })}
          unit="mm"
        />
      )}
      {p.kind === 'faired' && (
        <FigureRow
          name="within"
          value={p.tolerance_mm}
          digits={3}
          label="may deviate by, in mm"
          range={[0, 100]}
          disabled={!may}
          onValue={(v) => put({ position: { ...p, tolerance_mm: v } })}
          unit="mm"
        />
      )}
      {matched && <p className="tight soft mb-1">{matched}</p>}
      {trade && p.kind !== 'none' && (
        <p className="tight mb-1">
          On your own strokes: <b>{trade.lag_ms.toFixed(0)} ms</b> ({trade.lag_mm.toFixed(2)} mm) behind, cuts a corner by{' '}
          <b>{trade.corner_mm.toFixed(2)} mm</b>
          {trade.wobble_removed != null && (
            <>
              , takes <b>{Math.max(0, 100 * trade.wobble_removed).toFixed(0)} %</b> of the wobble
            </>
          )}
          .
        </p>
      )}
      <FigureRow
        name="effort averaged over"
        value={effort.kind === 'average' ? effort.span_ms : 0}
        digits={0}
        label="effort averaged over ms"
        range={[0, 10000]}
        disabled={!may}
        onValue={(v) => put({ effort: v > 0 ? { kind: 'average', span_ms: v } : { kind: 'none' } })}
      >
        {' '}
        ms
      </FigureRow>
      <FigureRow
        name="cut the hook at the pen’s lift"
        value={brush.smoothing?.lift_guard_ms ?? 0}
        digits={0}
        label="cut at the lift in ms"
        range={[0, 1000]}
        disabled={!may}
        onValue={(v) => put({ lift_guard_ms: v })}
        unit="ms"
      />
    </Card>
  );
}

export function EdgeCard({ brush, change, may, match, strip }: CardProps & { strip: string | null | undefined }) {
  const e = brush.edge ?? {};
  const set = (v: Partial<Schemas['Edge']>) => change({ ...brush, edge: { ...e, ...v } });
  const rough = (e.raggedness_um ?? 0) > 0 || !!e.strip_png;
  const missed = useMemo(() => stripMismatch(e.strip_png), [e.strip_png]);
  return (
    <Card title="Edge" part="edge" match={match} may={may}>
      {e.strip_png ? (
        <>
          <p className="soft tight mb-1">
            The strip of the real line, repeated along the stroke. {missed !== null && `Its ends are off by ${missed.toFixed(0)} µm.`}
          </p>
          <img src={e.strip_png} alt="the strip" style={{ width: '100%', height: 26, objectFit: 'cover' }} />
          <button type="button" className="btn-word" disabled={!may} onClick={() => set({ strip_png: undefined })}>
            Remove strip
          </button>
        </>
      ) : (
        <>
          <FigureRow
            name="raggedness"
            value={e.raggedness_um ?? 0}
            digits={1}
            label="raggedness in µm"
            range={[0, 100000]}
            disabled={!may}
            onValue={(v) => set({ raggedness_um: v })}
            unit="µm"
          />
          <FigureRow
            name="grain length"
            value={e.correlation_um ?? 0}
            digits={0}
            label="grain length in µm"
            range={[0, 100000]}
            disabled={!may}
            onValue={(v) => set({ correlation_um: v })}
            unit="µm"
          />
          {strip && (
            <button type="button" className="btn-word" disabled={!may} onClick={() => set({ strip_png: strip })}>
              Use the pen’s own strip
            </button>
          )}
        </>
      )}
      <FigureRow
        name="softness"
        value={e.softness_mm ?? 0}
        digits={3}
        label="softness in mm"
        range={[0, 100]}
        disabled={!may}
        onValue={(v) => set({ softness_mm: v })}
        unit="mm"
      />
      {!rough && <p className="soft tight mb-0">Smooth: the length has no effect without raggedness.</p>}
    </Card>
  );
}

export function OpacityCard({ brush, change, may, match }: CardProps) {
  const o = brush.opacity ?? { floor: 1, full: 1 };
  const chance = brush.chance;
  return (
    <Card title="Opacity and random width" match={match} may={may}>
      <FigureRow
        name="opacity at no effort"
        value={100 * o.floor}
        digits={0}
        label="opacity at no effort in per cent"
        range={[0, 100]}
        disabled={!may}
        onValue={(v) => change({ ...brush, opacity: { ...o, floor: v / 100 } })}
      >
        {' '}
        %
      </FigureRow>
      <FigureRow
        name="at full effort"
        value={100 * o.full}
        digits={0}
        label="opacity at full effort in per cent"
        range={[0, 100]}
        disabled={!may}
        onValue={(v) => change({ ...brush, opacity: { ...o, full: v / 100 } })}
      >
        {' '}
        %
      </FigureRow>
      <div className="d-flex justify-content-between mt-2">
        <span className="tight">random width</span>
        <Switch on={!!chance} label="Random width" may={may} onChange={(on) => change({ ...brush, chance: on ? { spread: 0.03, correlation_mm: 2 } : null })} />
      </div>
      {chance && (
        <>
          <FigureRow
            name="by"
            value={100 * chance.spread}
            digits={1}
            label="random width in per cent"
            range={[0, 100]}
            disabled={!may}
            onValue={(v) => change({ ...brush, chance: { ...chance, spread: v / 100 } })}
          >
            {' '}
            % of it
          </FigureRow>
          <FigureRow
            name="grain length"
            value={chance.correlation_mm}
            digits={1}
            label="random width over mm"
            range={[0, 1000]}
            disabled={!may}
            onValue={(v) => change({ ...brush, chance: { ...chance, correlation_mm: v } })}
          >
            {' '}
            mm
          </FigureRow>
        </>
      )}
    </Card>
  );
}
