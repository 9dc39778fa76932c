// What tests of the pages' parts share: a production that is open, and an interface that answers from a table.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import { createElement, type ReactNode } from 'react';
import { MemoryRouter } from 'react-router';
import type { Schemas } from '../api/client';
import { OpenProduction } from '../session';
import { answerWith } from './setup';

export type Answer = { status?: number; body: unknown };
/** What was asked of the interface, in order. */
export type Asked = { method: string; path: string; body: unknown };

/** Answers requests by `METHOD path`, the longest fitting beginning first; what is not in the table is an error of the test. */
export function interfaceOf(table: Record<string, Answer | ((body: unknown) => Answer)>) {
  const asked: Asked[] = [];
  answerWith(async (request) => {
    const path = new URL(request.url).pathname;
    const text = await request.text();
    const body = text ? JSON.parse(text) : undefined;
    asked.push({ method: request.method, path, body });
    const key = Object.keys(table)
      .filter((k) => `${request.method} ${path}`.startsWith(k))
      .sort((a, b) => b.length - a.length)[0];
    if (!key) throw new Error(`nothing answers ${request.method} ${path}`);
    const found = table[key];
    const { status = 200, body: out } = typeof found === 'function' ? found(body) : (found as Answer);
    return new Response(JSON.stringify(out), { status, headers: { 'content-type': 'application/json' } });
  });
  return asked;
}

export function sessionOf(part: 'lead' | 'artist' | 'viewer') {
  const productions = [
    { id: 'p1', name: 'Night Tram', part, archived: false, team: true },
    { id: 'p2', name: 'Low Tide', part: 'viewer', team: false },
  ];
  return { member: { id: 'm1', name: 'Ilse Marrow', email: 'ilse@nighttram.example' }, productions, first: false, demo_sign_ins: [] } as Schemas['Session'];
}

type AroundProps = { part: 'lead' | 'artist' | 'viewer'; client: QueryClient; children: ReactNode };

/** The page's surroundings: a router, the cache of what was fetched, the open production. */
function Around({ part, client, children }: AroundProps) {
  return (
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <OpenProduction session={sessionOf(part)}>{children}</OpenProduction>
      </MemoryRouter>
    </QueryClientProvider>
  );
}

/** The surroundings as what testing wraps around a part or a hook, with a cache of its own. */
export function around(part: AroundProps['part'] = 'lead') {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
  return ({ children }: { children: ReactNode }) => createElement(Around, { part, client, children });
}

export const show = (what: ReactNode, part: AroundProps['part'] = 'lead') => render(what, { wrapper: around(part) });
