// Who is signed in, and which production is open.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useState } from 'react';
import { useNavigate } from 'react-router';
import { api, type Schemas, take } from './api/client';

type Open = { session: Schemas['Session']; production: Schemas['ProductionView']; leads: boolean; choose: (id: string) => void; refresh: () => void };
const CHOSEN = 'eddymist.production';
const Context = createContext<Open | null>(null);

export function useSession() {
  return useQuery({ queryKey: ['session'], queryFn: () => take<Schemas['Session']>(api.GET('/api/v1/session')) });
}

export function OpenProduction({ session, children }: { session: Schemas['Session']; children: ReactNode }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [chosen, setChosen] = useState(() => localStorage.getItem(CHOSEN));
  const open = session.productions.find((p) => p.id === chosen) ?? session.productions[0];
  const choose = (id: string) => {
    localStorage.setItem(CHOSEN, id);
    setChosen(id);
    navigate('/');
  };
  // In what is archived a lead and an artist are viewers: nothing in it changes.
  const production = open?.archived ? { ...open, part: 'viewer' as const } : open;
  if (!open || !production) return <div className="page">You are in no production yet. Ask a lead to add you.</div>;
  return (
    <Context.Provider value={{ session, production, leads: open.part === 'lead', choose, refresh: () => client.invalidateQueries({ queryKey: ['session'] }) }}>
      {children}
    </Context.Provider>
  );
}

/** The open production and the member's part in it; `leads`: also where it is archived. */
export function useOpen(): Open {
  const open = useContext(Context);
  if (!open) throw new Error('no production is open');
  return open;
}

/** A member who may change things. */
export function useMayChange() {
  return useOpen().production.part !== 'viewer';
}
