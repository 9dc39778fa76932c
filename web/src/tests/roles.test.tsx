// @vitest-environment jsdom
// A guide's roles: a colour as it is written, gaps of a role's own, and what the guide says where the role says nothing.
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, test } from 'vitest';
import type { Schemas } from '../api/client';
import { colourOf } from '../guides/FoundBy';
import { RoleTable } from '../guides/RoleTable';

type Guide = Schemas['LineGuide'];
afterEach(cleanup);

const guide = (limits: object, role: object = {}) =>
  ({
    name: 'g',
    page: { width_px: 1920, height_px: 1080 },
    limits,
    roles: [{ name: 'contour', from: { colour: '#1b1e24', tolerance: 8 }, weight_px: { target: 6, tolerance: 0.1 }, ends: 'any', ...role }],
  }) as unknown as Guide;
async function typed(of: Guide, label: string, text: string) {
  const got: Guide[] = [];
  render(<RoleTable guide={of} lead onChange={(g) => got.push(g)} />);
  const field = screen.getByLabelText(label);
  await userEvent.clear(field);
  await userEvent.type(field, `${text}{Enter}`);
  return got.at(-1)?.roles[0];
}

test.each([
  ['#1B1E24', '#1b1e24'],
  ['1b1e24', '#1b1e24'],
  [' #abc ', '#aabbcc'],
  ['0f0', '#00ff00'],
  ['', null],
  ['#12345', null],
  ['red', null],
  ['#1b1e2g', null],
])('“%s” is the colour %s', (text, colour) => expect(colourOf(text)).toBe(colour));

test.each([
  [{}, {}, '3', 3],
  [{}, {}, '0', 0],
  // The guide's own is no saying of the role's.
  [{ gap_px: 4 }, { gap_px: 9 }, '4', null],
  [{}, { gap_px: 9 }, '6', null],
])('with %o and %o, gaps typed as %s are the role’s %s', async (limits, role, text, gap) => {
  expect((await typed(guide(limits, role), 'gaps of contour under so many px', text))?.gap_px).toBe(gap);
});

test('gaps longer than the page are refused where they stand; a role without a say shows the guide’s', async () => {
  expect(await typed(guide({}), 'gaps of contour under so many px', '2000')).toBeUndefined();
  cleanup();
  render(<RoleTable guide={guide({ gap_px: 4.5 })} lead onChange={() => {}} />);
  expect(screen.getByLabelText<HTMLInputElement>('gaps of contour under so many px').value).toBe('4.5');
});

test('a colour is written; what is none leaves the role as it was', async () => {
  expect((await typed(guide({}), 'colour of contour, written', '0f0'))?.from).toEqual({ colour: '#00ff00', tolerance: 8 });
  cleanup();
  expect(await typed(guide({}), 'colour of contour, written', 'green')).toBeUndefined();
  expect(screen.getByLabelText<HTMLInputElement>('colour of contour, written').value).toBe('#1b1e24');
});
