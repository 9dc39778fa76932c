// The frame: sign-in before all else, then the top bar with the places in the order of work.
import { useQueryClient } from '@tanstack/react-query';
import { Dropdown } from 'react-bootstrap';
import { matchPath, NavLink, Route, Routes, useLocation } from 'react-router';
import { Account } from './account/Account';
import { ArchivedNotice } from './account/ArchivedNotice';
import { ArchivePage } from './account/ArchivePage';
import { Join } from './account/Join';
import { Log } from './account/Log';
import { Members } from './account/Members';
import { Reset } from './account/Reset';
import { SignIn } from './account/SignIn';
import { api, type Schemas, take } from './api/client';
import { Bench } from './brushes/Bench';
import { Blind } from './brushes/Blind';
import { Brushes } from './brushes/Brushes';
import { Compare } from './brushes/Compare';
import { Paths } from './brushes/Paths';
import { ProofSheet } from './brushes/ProofSheet';
import { Recipe } from './brushes/Recipe';
import { Checks } from './checks/Checks';
import { Delivery } from './checks/Delivery';
import { DrawingOf } from './checks/DrawingOf';
import { Desk } from './desk/Desk';
import { Guides } from './guides/Guides';
import { Loading, Problem } from './parts/states';
import { NewPen } from './pens/NewPen';
import { NewSheet } from './pens/NewSheet';
import { Pen } from './pens/Pen';
import { Pens } from './pens/Pens';
import { OpenProduction, useOpen, useSession } from './session';
import { Pairs } from './tablets/Pairs';
import { Profile } from './tablets/Profile';
import { Tablets } from './tablets/Tablets';
import { Transfer } from './tablets/Transfer';
import { WarmUp } from './tablets/WarmUp';
import { Team } from './team/Team';
import { TrimPage } from './team/TrimPage';
import { MyPage } from './trial/MyPage';
import { Trial } from './trial/Trial';
import { Trials } from './trial/Trials';

const PLACES = [
  ['/', 'Desk'],
  ['/pens', 'Pens'],
  ['/tablets', 'Tablets'],
  ['/brushes', 'Brushes'],
  ['/guides', 'Guides'],
  ['/checks', 'Checks'],
  ['/team', 'Team'],
] as const;

/** What belongs to the production and to oneself, rather than to the order of work. */
const OWN = [
  ['/members', 'Members'],
  ['/log', 'What was changed'],
  ['/archive', 'Archive'],
  ['/account', 'Your account'],
] as const;

function TopBar() {
  const { session, production, choose } = useOpen();
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
      {session.productions.length > 1 ? (
        <select className="production" aria-label="production" value={production.id} onChange={(e) => choose(e.target.value)}>
          {session.productions.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
              {p.archived && ' (archived)'}
            </option>
          ))}
        </select>
      ) : (
        <span className="production">{production.name}</span>
      )}
      <nav aria-label="Places">
        {PLACES.filter(([to]) => to !== '/team' || production.team).map(([to, name]) => (
          <NavLink key={to} to={to} className={() => ((to === '/' ? here === '/' : here.startsWith(to)) ? 'active' : '')}>
            {name}
          </NavLink>
        ))}
      </nav>
      <Dropdown align="end">
        <Dropdown.Toggle as="button" type="button" className="btn-word member" id="member">
          {session.member?.name} <span className="soft">· {production.archived ? 'archived' : production.part}</span>
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {OWN.map(([to, name]) => (
            <Dropdown.Item key={to} as={NavLink} to={to}>
              {name}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Item as="button" onClick={signOut}>
            Sign out
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </header>
  );
}

export function App() {
  const { data, error, isLoading } = useSession();
  const here = useLocation().pathname;
  if (isLoading) return <Loading what="Eddymist" />;
  if (error || !data)
    return (
      <div className="page">
        <Problem error={error} />
      </div>
    );
  if (matchPath('/reset/:secret', here))
    return (
      <Routes>
        <Route path="/reset/:secret" element={<Reset />} />
      </Routes>
    );
  if (matchPath('/join/:secret', here))
    return (
      <Routes>
        <Route path="/join/:secret" element={<Join session={data} />} />
      </Routes>
    );
  if (!data.member) return <SignIn session={data} />;
  return (
    <OpenProduction session={data}>
      <TopBar />
      <main>
        <ArchivedNotice />
        <Routes>
          <Route path="/" element={<Desk />} />
          <Route path="/pens" element={<Pens />} />
          <Route path="/pens/new" element={<NewPen />} />
          <Route path="/pens/sheet" element={<NewSheet />} />
          <Route path="/pens/:id" element={<Pen />} />
          <Route path="/tablets" element={<Tablets />} />
          <Route path="/tablets/warm-up" element={<WarmUp />} />
          <Route path="/tablets/transfer" element={<Transfer />} />
          <Route path="/tablets/:id/pairs" element={<Pairs />} />
          <Route path="/tablets/:id" element={<Profile />} />
          <Route path="/brushes" element={<Brushes />} />
          <Route path="/brushes/proof" element={<ProofSheet />} />
          <Route path="/brushes/paths" element={<Paths />} />
          <Route path="/brushes/trials" element={<Trials />} />
          <Route path="/brushes/trials/:id" element={<Trial />} />
          <Route path="/brushes/trials/:id/my-page" element={<MyPage />} />
          <Route path="/brushes/:id" element={<Bench />} />
          <Route path="/brushes/:id/compare" element={<Compare />} />
          <Route path="/brushes/:id/blind" element={<Blind />} />
          <Route path="/brushes/:id/recipe" element={<Recipe />} />
          <Route path="/guides" element={<Guides />} />
          <Route path="/checks" element={<Checks />} />
          <Route path="/checks/of/:drawing" element={<DrawingOf />} />
          <Route path="/checks/:id" element={<Delivery />} />
          <Route path="/team" element={<Team />} />
          <Route path="/team/trims/:id" element={<TrimPage />} />
          <Route path="/members" element={<Members />} />
          <Route path="/log" element={<Log />} />
          <Route path="/archive" element={<ArchivePage />} />
          <Route path="/account" element={<Account />} />
          <Route path="*" element={<div className="page">There is nothing at this address. The places are in the bar above.</div>} />
        </Routes>
      </main>
    </OpenProduction>
  );
}
