// @vitest-environment jsdom
// The list of a drawing's findings: what each says, what a lead may do with it, what was meant, pinned, mended, and what is not listed.

import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, test } from 'vitest';
import type { Schemas } from '../api/client';
import { Findings } from '../checks/Findings';
import { interfaceOf, show } from './kit';

afterEach(cleanup);

const finding = (kind: string, more: Partial<Schemas['Finding']> = {}) =>
  ({
    kind,
    role: 'contour',
    x: 10,
    y: 20,
    value: 7.9,
    limit: 6.6,
    length_px: 120,
    must_mend: false,
    message: `${kind} contour: what it is`,
    ...more,
  }) as Schemas['Finding'];

type More = { findings?: Schemas['Finding'][]; drawing?: object; check?: object; over?: Partial<Parameters<typeof Findings>[0]>; alike?: Schemas['Alike'][] };

function shown({ findings = [], drawing = {}, check = {}, over = {}, alike = [] }: More) {
  const did: unknown[][] = [];
  const say =
    (what: string) =>
    (...a: unknown[]) => {
      did.push([what, ...a]);
    };
  const view = {
    id: 'd',
    decisions: [],
    dismissals: [],
    pins: [],
    earlier: null,
    check: { findings, ...check },
    ...drawing,
  } as unknown as Schemas['DrawingView'];
  interfaceOf({ 'GET /api/v1/productions/p1/drawings/d/alike': { body: alike } });
  show(
    <Findings
      drawing={view}
      selected={null}
      lead
      meaning={false}
      onSelect={say('select')}
      onMeaning={say('meaning')}
      onDismiss={say('dismiss')}
      onUndo={say('undo')}
      onUnpin={say('unpin')}
      onChoose={say('choose')}
      {...over}
    />,
  );
  return did;
}

test('each finding says its figure and its bound, and is selected by its place in the list', () => {
  const heavy = finding('heavy', { must_mend: true, message: 'heavy contour: 7.9 px wide over 2 stretches, 120 px together (6.0 ± 10 %)' });
  const did = shown({ findings: [heavy, finding('thin', { value: 3.1, limit: 5.4 }), finding('gap', { value: 2.2 })] });
  const rows = screen.getAllByRole('button').map((b) => b.textContent);
  expect(rows[0]).toContain('heavy contour · must fix');
  expect(rows[0]).toContain('over 2 stretches, 120 px together (6.0 ± 10 %)');
  expect(rows[0]).not.toContain('wide');
  expect(rows[2]).toContain('what it is');
  for (const b of screen.getAllByRole('button')) fireEvent.click(b);
  expect(did).toEqual([
    ['select', 0],
    ['select', 1],
    ['select', 2],
  ]);
});

test('many of one kind and role are one row that opens, and opens by itself for the one that is looked at; what is intended stands alone', () => {
  const many = Array.from({ length: 5 }, (_, k) => finding('hook', { length_px: null, message: `hook contour: number ${k}` }));
  const meant = finding('hook', { dismissed: { why: 'a curl', by: 'Ilse' } } as Partial<Schemas['Finding']>);
  const findings = [finding('heavy', { stretches: [1, 2, 3].map((x) => ({ x, y: 0, length_px: 40 })) }), ...many, meant, finding('hook', { role: 'prop' })];
  const did = shown({ findings });
  // The heavy line, the group, the intended one, the other role's.
  expect(screen.getAllByRole('button')).toHaveLength(4);
  const group = screen.getByRole('button', { expanded: false });
  expect(group.textContent).toContain('hook contour');
  expect(group.textContent).toContain('5 places');
  fireEvent.click(group);
  expect(screen.getAllByRole('button')).toHaveLength(9);
  fireEvent.click(screen.getByText('number 4').closest('button') as HTMLElement);
  expect(did).toEqual([['select', 5]]);
  cleanup();
  shown({ findings, over: { selected: 3 } });
  expect(screen.getByText('number 2').closest('button')?.getAttribute('aria-current')).toBe('true');
});

test('what is not listed is counted by kind, and said even where nothing else is', () => {
  shown({ check: { not_listed: { pinhole: 257702, double: 1 } } });
  expect(screen.getByText(/257.?702 more of the kind “pinhole” are not listed/)).toBeTruthy();
  expect(screen.getByText(/1 more of the kind “double”/)).toBeTruthy();
  cleanup();
  shown({ findings: [finding('heavy')] });
  expect(screen.queryByText(/not listed/)).toBeNull();
});

test('a lead says why a finding is intended; without a word it cannot be sent; Escape leaves it', async () => {
  const f = finding('hook');
  expect(shown({ findings: [f], over: { selected: 0 } })).toEqual([]);
  fireEvent.click(screen.getByText('Mark as intended…'));
  cleanup();
  const did = shown({ findings: [f], over: { selected: 0, meaning: true } });
  const field = screen.getByLabelText('why it is intended');
  expect((screen.getByRole('button', { name: 'Mark as intended' }) as HTMLButtonElement).disabled).toBe(true);
  await userEvent.type(field, '  ');
  expect((screen.getByRole('button', { name: 'Mark as intended' }) as HTMLButtonElement).disabled).toBe(true);
  await userEvent.type(field, 'a feather{Enter}');
  expect(did).toEqual([['dismiss', f, '  a feather', []]]);
  await userEvent.type(field, '{Escape}');
  expect(did[did.length - 1]).toEqual(['meaning', false]);
});

test('what was marked as intended is struck out with its reason, and only a lead takes it back', () => {
  const meant = finding('heavy', { must_mend: true, dismissed: { why: 'a shadow line', by: 'Ilse' } } as Partial<Schemas['Finding']>);
  const drawing = { dismissals: [{ id: 'm1', finding: 0, why: 'a shadow line', by: 'Ilse', carried: true }] };
  const did = shown({ findings: [meant], drawing, over: { selected: 0 } });
  const row = screen.getAllByRole('button')[0]?.textContent ?? '';
  expect(row).toContain('intended: a shadow line (Ilse, on the previous take)');
  expect(row).not.toContain('must fix');
  fireEvent.click(screen.getByText('Remove intended mark'));
  expect(did).toEqual([['undo', 'm1']]);
  cleanup();
  shown({ findings: [meant], drawing, over: { selected: 0, lead: false } });
  expect(screen.queryByText('Remove intended mark')).toBeNull();
});

test.each([true, false])('pins go by letters; taken out by a lead: %s', (lead) => {
  const pins = Array.from({ length: 28 }, (_, k) => ({ id: `p${k}`, x: 1, y: 2, text: `pin ${k}`, by: 'Ilse' }));
  const did = shown({ drawing: { pins }, over: { lead } });
  expect(screen.getAllByText(/^pin \d+$/)).toHaveLength(28);
  expect(screen.getAllByText('a')).toHaveLength(2);
  const out = screen.queryAllByText('Remove pin');
  expect(out).toHaveLength(lead ? 28 : 0);
  if (out[2]) fireEvent.click(out[2]);
  expect(did).toEqual(lead ? [['unpin', 'p2']] : []);
});

test('all drawings that have a finding here are chosen together; where none has it that is said', async () => {
  const alike = [{ drawing: 'e', file: 'e.png', finding: finding('hook') }] as unknown as Schemas['Alike'][];
  const did = shown({ findings: [finding('hook')], alike, over: { selected: 0 } });
  fireEvent.click(screen.getByText('Choose all drawings with it here'));
  await waitFor(() => expect(did).toEqual([['choose', ['d', 'e']]]));
  cleanup();
  const none = shown({ findings: [finding('hook')], over: { selected: 0 } });
  fireEvent.click(screen.getByText('Choose all drawings with it here'));
  expect(await screen.findByText('No other drawing has it here.')).toBeTruthy();
  expect(none).toEqual([]);
});

test('against the previous take: what is new is marked, what is mended is told', () => {
  const compared = { mended: [0], stands: [[1, 0]], new: [1] };
  const earlier = {
    pins: [{ x: 1, y: 2, text: 'the ear', by: 'Ilse', became: 'look-again' }],
    compared,
    findings: [finding('gap', { message: 'gap: it leaked' }), finding('heavy')],
  };
  shown({ findings: [finding('heavy'), finding('speck')], drawing: { earlier } });
  expect(screen.getByText(/1 fixed · 1 still there · 1 new/)).toBeTruthy();
  expect(screen.getByText('look again').parentElement?.textContent).toBe('A the ear: look again');
  const rows = screen.getAllByRole('button').map((b) => b.textContent ?? '');
  expect(rows.filter((r) => r.includes('· new'))).toEqual([expect.stringContaining('speck')]);
});

test('where a finding recurs it is marked as intended on all of them, if the lead says so', async () => {
  const alike = [{ drawing: 'e', file: 'e.png', finding: finding('hook') }] as unknown as Schemas['Alike'][];
  const did = shown({ findings: [finding('hook')], alike, over: { selected: 0, meaning: true } });
  fireEvent.click(await screen.findByLabelText('and at the same place on 1 other drawing'));
  await userEvent.type(screen.getByLabelText('why it is intended'), 'the lamp{Enter}');
  expect(did).toEqual([['dismiss', finding('hook'), 'the lamp', alike]]);
});

test('who drew it gets the pins first, then what the lead chose, then the rest folded', () => {
  const findings = [finding('thin', { must_mend: true }), finding('heavy', { must_mend: true }), finding('hook', { role: 'prop' })];
  const returned = { number: 1, state: 'return', by: 'Ilse', at: '', note: '', strokes: [], fix: [{ kind: 'hook', role: 'prop' }] };
  const drawing = { pins: [{ id: 'p', x: 1, y: 2, text: 'the ear', by: 'Ilse' }], decisions: [returned] };
  shown({ findings, drawing, over: { lead: false } });
  const text = document.body.textContent ?? '';
  expect([...text.matchAll(/the ear|hook prop · must fix|2 more found|thin contour|heavy contour/g)].map((m) => m[0])).toEqual([
    'the ear',
    'hook prop · must fix',
    '2 more found',
    'thin contour',
    'heavy contour',
  ]);
  expect(text).not.toContain('contour · must fix');
});
