// The frame: sign-in before all else, then the top bar with the places in the order of work.
import { useQueryClient } from '@tanstack/react-query';
import { NavLink, Route, Routes, useLocation } from 'react-router';
import { api, type Schemas, take } from './api/client';
import { Loading, Problem } from './lanes/states';
import { Bench } from './pages/Bench';
import { Blind } from './pages/Blind';
import { Brushes } from './pages/Brushes';
import { Checks } from './pages/Checks';
import { Compare } from './pages/Compare';
import { Delivery } from './pages/Delivery';
import { Desk } from './pages/Desk';
import { Guides } from './pages/Guides';
import { NewPen } from './pages/NewPen';
import { NewSheet } from './pages/NewSheet';
import { Paths } from './pages/Paths';
import { Pen } from './pages/Pen';
import { Pens } from './pages/Pens';
import { Profile } from './pages/Profile';
import { ProofSheet } from './pages/ProofSheet';
import { Recipe } from './pages/Recipe';
import { SignIn } from './pages/SignIn';
import { Tablets } from './pages/Tablets';
import { Team } from './pages/Team';
import { Transfer } from './pages/Transfer';
import { Trial } from './pages/Trial';
import { Trials } from './pages/Trials';
import { WarmUp } from './pages/WarmUp';
import { OpenProduction, useOpen, useSession } from './session';

const PLACES = [
  ['/', 'Desk'],
  ['/pens', 'Pens'],
  ['/tablets', 'Tablets'],
  ['/brushes', 'Brushes'],
  ['/guides', 'Guides'],
  ['/checks', 'Checks'],
  ['/team', 'Team'],
] as const;

function TopBar() {
  const { session, production } = useOpen();
  const client = useQueryClient();
  const here = useLocation().pathname;
  const signOut = async () => {
    const next = await take<Schemas['Session']>(api.DELETE('/api/v1/session'));
    client.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' });
    client.setQueryData(['session'], next);
  };
  return (
    <header className="topbar">
      <NavLink to="/" className="brand">
        <img src="/mark.svg" alt="" /> Eddymist
      </NavLink>
      <span className="production">{production.name}</span>
      <nav aria-label="Places">
        {PLACES.map(([to, name]) => (
          <NavLink key={to} to={to} className={() => ((to === '/' ? here === '/' : here.startsWith(to)) ? 'active' : '')}>
            {name}
          </NavLink>
        ))}
      </nav>
      <span className="tight">
        {session.member?.name} <span className="soft">· {production.part}</span>
      </span>
      <button type="button" className="btn-word" onClick={signOut}>
        Sign out
      </button>
    </header>
  );
}

export function App() {
  const { data, error, isLoading } = useSession();
  if (isLoading) return <Loading what="Eddymist" />;
  if (error || !data)
    return (
      <div className="page">
        <Problem error={error} />
      </div>
    );
  if (!data.member) return <SignIn session={data} />;
  return (
    <OpenProduction session={data}>
      <TopBar />
      <main>
        <Routes>
          <Route path="/" element={<Desk />} />
          <Route path="/pens" element={<Pens />} />
          <Route path="/pens/new" element={<NewPen />} />
          <Route path="/pens/sheet" element={<NewSheet />} />
          <Route path="/pens/:id" element={<Pen />} />
          <Route path="/tablets" element={<Tablets />} />
          <Route path="/tablets/warm-up" element={<WarmUp />} />
          <Route path="/tablets/transfer" element={<Transfer />} />
          <Route path="/tablets/:id" element={<Profile />} />
          <Route path="/brushes" element={<Brushes />} />
          <Route path="/brushes/proof" element={<ProofSheet />} />
          <Route path="/brushes/paths" element={<Paths />} />
          <Route path="/brushes/trials" element={<Trials />} />
          <Route path="/brushes/trials/:id" element={<Trial />} />
          <Route path="/brushes/:id" element={<Bench />} />
          <Route path="/brushes/:id/compare" element={<Compare />} />
          <Route path="/brushes/:id/blind" element={<Blind />} />
          <Route path="/brushes/:id/recipe" element={<Recipe />} />
          <Route path="/guides" element={<Guides />} />
          <Route path="/checks" element={<Checks />} />
          <Route path="/checks/:id" element={<Delivery />} />
          <Route path="/team" element={<Team />} />
          <Route path="*" element={<div className="page">There is nothing at this address. The places are in the bar above.</div>} />
        </Routes>
      </main>
    </OpenProduction>
  );
}
