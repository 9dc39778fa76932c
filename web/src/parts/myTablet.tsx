// The drawing member's own tablet: which one is in hand is chosen once in this browser, and shown wherever ink is laid.
import { useMemo, useSyncExternalStore } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../api/client';
import { useMayChange, useOpen } from '../session';
import { useProfiles } from './lists';

type Profile = Schemas['ProfileView'];
const KEY = 'eddymist.tablet';
/** Chosen: raw pressure as it comes. */
const RAW = '-';
const watchers = new Set<() => void>();
const subscribe = (f: () => void) => {
  watchers.add(f);
  return () => watchers.delete(f);
};
const NOTHING: number[][] = [];

/** The newest own profile of each tablet, the tablet in hand, and its response: raw pressure to effort, empty where there is none. */
export function useMyTablet() {
  const { session } = useOpen();
  const key = `${KEY}.${session.member?.id}`;
  const chosen = useSyncExternalStore(subscribe, () => localStorage.getItem(key));
  const profiles = useProfiles();
  const mine = useMemo(() => {
    const newest = new Map<string, Profile>();
    for (const p of profiles.data ?? []) if (p.mine) newest.set(p.tablet.trim().toLowerCase(), p);
    return [...newest.values()];
  }, [profiles.data]);
  const named = mine.find((p) => p.tablet === chosen);
  const profile = chosen === RAW ? null : (named ?? mine.reduce<Profile | null>((a, b) => (!a || b.kept_at > a.kept_at ? b : a), null));
  const response = profile?.profile.response ?? NOTHING;
  const choose = (tablet: string | null) => {
    localStorage.setItem(key, tablet ?? RAW);
    for (const f of watchers) f();
  };
  return { read: !!profiles.data, mine, profile, response, choose };
}

/** Through which tablet ink goes, with the choice; without a profile it says so and offers the warm-up. */
export function ThroughTablet() {
  const { mine, profile, choose, read } = useMyTablet();
  const may = useMayChange();
  if (!read) return null;
  if (!mine.length)
    return (
      <span className="tight">
        <span style={{ color: 'var(--warn)' }}>no tablet profile of yours: raw pressure is taken as effort</span>
        {may && (
          <>
            {' · '}
            <Link to="/tablets/warm-up">Warm up</Link>
          </>
        )}
      </span>
    );
  return (
    <label className="tight">
      through your{' '}
      <select
        className="form-select form-select-sm tight d-inline-block short"
        aria-label="the tablet that you draw on"
        value={profile?.tablet ?? RAW}
        onChange={(e) => choose(e.target.value === RAW ? null : e.target.value)}
      >
        {mine.map((p) => (
          <option key={p.id} value={p.tablet}>
            {p.tablet}
          </option>
        ))}
        <option value={RAW}>no profile: raw pressure</option>
      </select>
    </label>
  );
}
