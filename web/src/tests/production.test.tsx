// @vitest-environment jsdom
// What is said of a whole production: archived and restored, artists and their handles, its log in pictures; and what a manifest's fields may say.
import { cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, test } from 'vitest';
import { Artists } from '../account/Artists';
import { Log } from '../account/Log';
import { Productions } from '../account/Productions';
import type { Schemas } from '../api/client';
import { type Known, NamesPreview } from '../checks/HowKnown';
import { PinMarks } from '../checks/PinMarks';
import { interfaceOf, sessionOf, show } from './kit';

afterEach(cleanup);
const P = '/api/v1/productions/p1';

test('a production is archived only after what follows was said', async () => {
  const asked = interfaceOf({ [`PUT ${P}/archived`]: { body: null }, 'GET /api/v1/session': { body: sessionOf('lead') } });
  show(<Productions />);
  fireEvent.click(screen.getByText('Archive production…'));
  expect(screen.getByText(/Nothing in it can be changed until a lead restores it/)).toBeTruthy();
  fireEvent.click(screen.getByText('Cancel'));
  expect(asked).toEqual([]);
  fireEvent.click(screen.getByText('Archive production…'));
  fireEvent.click(screen.getByText('Archive Night Tram'));
  await waitFor(() => expect(asked[0]).toMatchObject({ method: 'PUT', path: `${P}/archived` }));
  // A name is not given twice.
  expect((screen.getByText('Rename production') as HTMLButtonElement).disabled).toBe(true);
});

const member = (id: string, name: string, email: string, part = 'artist') => ({ id, name, email, part, you: false, disabled: false }) as Schemas['MemberView'];

test('members of one name are told by their addresses, a viewer draws nothing, and a handle that is there is not given again', async () => {
  const artists = [{ artist: 'dov', member: 'b', fits: null }];
  const asked = interfaceOf({ [`GET ${P}/artists`]: { body: artists }, [`PUT ${P}/artists`]: { body: null } });
  const members = [member('a', 'Kit', 'one@x.example'), member('b', 'Kit', 'two@x.example'), member('c', 'Wanda', 'w@x.example', 'viewer')];
  show(<Artists members={members} />);
  const own = (await screen.findByLabelText('member for dov')) as HTMLSelectElement;
  expect([...own.options].map((o) => o.text)).toEqual(['no member', 'Kit (one@x.example)', 'Kit (two@x.example)']);
  const handle = screen.getByLabelText('name or handle in manifests');
  await userEvent.selectOptions(screen.getByLabelText('member of this handle'), 'a');
  await userEvent.type(handle, ' DOV ');
  expect(screen.getByText('It is in the list above.')).toBeTruthy();
  expect((screen.getByText('Link handle') as HTMLButtonElement).disabled).toBe(true);
  await userEvent.clear(handle);
  await userEvent.type(handle, ' kit-1 ');
  fireEvent.click(screen.getByText('Link handle'));
  await waitFor(() => expect(asked.find((a) => a.method === 'PUT')?.body).toEqual({ artist: 'kit-1', member: 'a' }));
});

test('a row of the log shows the drawings that it is of, each leading there', async () => {
  const row = (id: number, shows: Schemas['Shows'] | null) => ({ id, at: '2026-11-29T10:00:00Z', by: 'Ilse', action: 'returned', subject: `act ${id}`, shows });
  const rows = [row(2, { what: 'drawing', ids: ['d1', 'd2'], pictures: ['s1', 's2'] }), row(1, null)];
  interfaceOf({ [`GET ${P}/log`]: { body: rows } });
  show(<Log />);
  const first = (await screen.findByText('act 2')).closest('tr') as HTMLElement;
  expect(
    within(first)
      .getAllByRole('link')
      .map((a) => a.getAttribute('href')),
  ).toEqual(['/checks/of/d1', '/checks/of/d2']);
  expect(within(first).getAllByRole('img')[1]?.getAttribute('src')).toBe(`${P}/images/s2/preview?small=true`);
  expect(within(screen.getByText('act 1').closest('tr') as HTMLElement).queryByRole('link')).toBeNull();
});

/** The preview with what is typed over it. */
function Typed({ guide }: { guide: string | undefined }) {
  const [known, setKnown] = useState<Known>({ pattern: '', csv: null, rows: {} });
  return <NamesPreview files={['1.png', '2.png']} guide={guide} known={known} onRows={(rows) => setKnown({ ...known, rows })} />;
}

test('a shot size that the guide does not have is marked, also as it is typed, and no more once it is right', async () => {
  const read = [
    { file: '1.png', fields: { shot_size: 'wides' } },
    { file: '2.png', fields: { shot_size: 'close' } },
  ];
  const asked = interfaceOf({ [`POST ${P}/names`]: { body: { read, missing: [], absent: [], allowed: { shot_size: ['close', 'wide'] } } } });
  show(<Typed guide="g" />);
  await screen.findByText(/“wides” is no shot size of the guide \(close, wide\): 1 drawing cannot be checked/);
  expect(asked[0]?.body).toMatchObject({ guide_id: 'g' });
  const [first, second] = ['1.png', '2.png'].map((f) => screen.getByLabelText(`shot_size of ${f}`)) as [HTMLInputElement, HTMLInputElement];
  expect([first, second].map((i) => i.getAttribute('aria-invalid'))).toEqual(['true', 'false']);
  fireEvent.change(second, { target: { value: 'wides' } });
  expect(screen.getByText(/2 drawings cannot be checked/)).toBeTruthy();
  for (const field of [first, second]) fireEvent.change(field, { target: { value: 'wide' } });
  expect(screen.queryByText(/cannot be checked/)).toBeNull();
});

test('pins of the previous take lie on this one with what became of them, apart from its own', () => {
  const pin = (x: number, became: string) => ({ x, y: 5, text: `pin ${x}`, by: 'Ilse', became });
  const drawing = { pins: [{ id: 'p', x: 1, y: 2, text: 'own', by: 'Ilse' }], earlier: { pins: [pin(10, 'fixed'), pin(20, 'look-again')] } };
  const { container } = render(
    <svg role="img" aria-label="a drawing">
      <PinMarks drawing={drawing as unknown as Schemas['DrawingView']} k={1} />
    </svg>,
  );
  expect([...container.querySelectorAll('text')].map((t) => t.textContent)).toEqual(['A', 'B', 'a']);
  expect([...container.querySelectorAll('title')].map((t) => t.textContent)).toEqual([
    'previous take: pin 10 (✓ fixed)',
    'previous take: pin 20 (look again)',
    'Ilse: own',
  ]);
});
