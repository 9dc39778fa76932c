// @vitest-environment jsdom
// Parts that act: archiving by who may, deciding with and without a note, the open production, what a team page asks.

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { Schemas } from '../api/client';
import { Deciding } from '../checks/Deciding';
import { ArchiveIt } from '../parts/ArchiveIt';
import { OpenProduction, useMayChange, useOpen } from '../session';
import { askOf } from '../team/ask';
import { interfaceOf, sessionOf, show } from './kit';

beforeEach(() => localStorage.clear());
afterEach(cleanup);

const ARCHIVE = '/api/v1/productions/p1/archive';

test('a thing is archived and brought back; a failure says why and leaves it', async () => {
  let full = false;
  const asked = interfaceOf({
    [`PUT ${ARCHIVE}/pens/x`]: () => (full ? { status: 409, body: { detail: 'on the pen roll: take it off first' } } : { body: null }),
    [`DELETE ${ARCHIVE}/pens/x`]: { body: null },
  });
  show(<ArchiveIt kind="pens" id="x" name="fineliner" />, 'artist');
  fireEvent.click(screen.getByRole('button'));
  await screen.findByText(/fineliner is archived/);
  fireEvent.click(screen.getByRole('button'));
  await waitFor(() => expect(asked.map((a) => a.method)).toEqual(['PUT', 'DELETE']));
  await waitFor(() => expect(screen.queryByText(/is archived/)).toBeNull());
  full = true;
  fireEvent.click(screen.getByRole('button'));
  expect((await screen.findByRole('alert')).textContent).toContain('On the pen roll');
  expect(screen.queryByText(/is archived/)).toBeNull();
});

test.each([
  ['lead', 'guides', true],
  ['lead', 'deliveries', true],
  ['artist', 'guides', false],
  ['artist', 'deliveries', false],
  ['artist', 'brushes', true],
  ['viewer', 'brushes', false],
  ['viewer', 'pens', false],
] as const)('a %s may archive %s: %s', (part, kind, may) => {
  interfaceOf({});
  show(<ArchiveIt kind={kind} id="x" name="x" />, part);
  expect(!!screen.queryByRole('button')).toBe(may);
});

const Where = () => <p>{`${useOpen().production.name}, ${useMayChange() ? 'may change' : 'may look'}`}</p>;

test('the production that was chosen last is open, if one is still in it', () => {
  const opened = (session: Schemas['Session']) =>
    render(
      <QueryClientProvider client={new QueryClient()}>
        <MemoryRouter>
          <OpenProduction session={session}>
            <Where />
          </OpenProduction>
        </MemoryRouter>
      </QueryClientProvider>,
    ).container.textContent;
  expect(opened(sessionOf('lead'))).toBe('Night Tram, may change');
  localStorage.setItem('eddymist.production', 'p2');
  expect(opened(sessionOf('lead'))).toBe('Low Tide, may look');
  localStorage.setItem('eddymist.production', 'gone');
  expect(opened(sessionOf('artist'))).toBe('Night Tram, may change');
  expect(opened({ ...sessionOf('lead'), productions: [] })).toContain('no production');
});

const drawing = (more: Partial<Schemas['DrawingView']> = {}) =>
  ({ id: 'd', file: 'a.png', decisions: [], later: null, same_picture: [], asks: [], ...more }) as unknown as Schemas['DrawingView'];
const decided = (state: string, note = '') => ({ number: 1, state, by: 'Ilse', at: '2026-02-03T00:00:00Z', note, strokes: [] });

function deciding(over: Partial<Parameters<typeof Deciding>[0]>) {
  const did: string[] = [];
  const props = {
    drawing: drawing(),
    lead: true,
    unread: false,
    note: null,
    strokes: 0,
    onNote: (t: string | null) => did.push(`note ${t}`),
    onUndoStroke: () => did.push('undo'),
    onDecide: (s: string, n: string) => did.push(`${s} ${n}`.trim()),
    onInkAgain: () => did.push('ink'),
    onAside: (why: string) => did.push(why),
    ...over,
  };
  show(<Deciding {...props} />, props.lead ? 'lead' : 'artist');
  return did;
}

test('an empty note goes nowhere; a typed or drawn one goes by its button or by Ctrl and Enter', async () => {
  deciding({ note: '' });
  expect(screen.getByRole<HTMLButtonElement>('button', { name: /^Return/ }).disabled).toBe(true);
  cleanup();
  deciding({ note: '', strokes: 2 });
  expect(screen.getByRole<HTMLButtonElement>('button', { name: /^Return/ }).disabled).toBe(false);
  cleanup();
  const did = deciding({ note: 'thinner at the ear' });
  await userEvent.click(screen.getByRole('button', { name: /^Return/ }));
  fireEvent.keyDown(screen.getByLabelText('note to the artist'), { key: 'Enter', ctrlKey: true });
  // What was written is left by its button only.
  fireEvent.keyDown(screen.getByLabelText('note to the artist'), { key: 'Escape' });
  expect(did).toEqual(['return thinner at the ear', 'return thinner at the ear']);
});

test('only a lead decides; what was returned can be inked again until it came again', () => {
  deciding({ lead: false });
  expect(screen.queryAllByRole('button')).toHaveLength(0);
  cleanup();
  const back = drawing({ decisions: [decided('return', 'thinner')] as Schemas['DrawingView']['decisions'] });
  const did = deciding({ lead: false, drawing: back });
  expect(screen.getAllByRole('button').map((b) => b.textContent)).toEqual(['Hand in…', 'Ink again on a trial page']);
  fireEvent.click(screen.getByText('Ink again on a trial page'));
  expect(did).toEqual(['ink']);
  cleanup();
  deciding({ lead: false, drawing: { ...back, later: 'e' } as unknown as Schemas['DrawingView'] });
  expect(screen.queryAllByRole('button')).toHaveLength(0);
});

test('a decision can be taken back, and is not offered twice', () => {
  const did = deciding({ drawing: drawing({ decisions: [decided('ready')] as Schemas['DrawingView']['decisions'] }) });
  const names = screen.getAllByRole('button').map((b) => b.textContent);
  expect(names).not.toContain('Mark as ready');
  fireEvent.click(screen.getByRole('button', { name: /^Undo$/ }));
  expect(did).toEqual(['open']);
});

test('the team page asks for what its address says, and nothing else', () => {
  const ask = askOf(new URLSearchParams('guide=g&by=tablet&shot=&name=dov&role=contour&from=2026-01-01'));
  expect(ask).toEqual({ guide: 'g', by: 'tablet', from: '2026-01-01' });
});
