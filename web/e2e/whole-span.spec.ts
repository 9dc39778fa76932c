// Many drawings at once, over the lanes: what marking a span as ready would pass over is asked, a span is returned with one note, one undo
// takes all of it back.
import { expect, test } from '@playwright/test';
import { place, signIn } from './people';

test('a span is marked as ready without what must be fixed, returned with one note, and taken back', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  await place(page, 'Checks');
  await page.getByRole('link', { name: 'Shot 012, delivery' }).click();
  const lanes = page.getByRole('button', { name: 'Show lanes' });
  if (await lanes.count()) await lanes.click();
  const options = page.locator('[role=option]');
  const [a, b] = [await options.nth(13).boundingBox(), await options.nth(20).boundingBox()];
  if (!a || !b) throw new Error('the lanes are not there');
  await page.mouse.move(a.x + a.width / 2, a.y + a.height / 2);
  await page.mouse.down();
  await page.mouse.move((a.x + b.x) / 2, a.y + a.height / 2, { steps: 5 });
  await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByText(/^8 drawings, \d+ to \d+$/)).toBeVisible();
  const delivery = new URL(page.url()).pathname.split('/').pop();
  const states = async () => {
    const { drawings } = await (await page.request.get(`${base}/deliveries/${delivery}`)).json();
    return (drawings as { standing: string }[]).slice(13, 21).map((d) => d.standing);
  };
  const before = await states();
  const open = before.filter((s) => !['handed-on', 'returned'].includes(s)).length;
  const must = before.filter((s) => ['goes-back', 'not-checked'].includes(s)).length;
  expect(must).toBeGreaterThan(0);
  // What must be fixed is named, and left.
  await page
    .getByRole('button', { name: `Mark ${open} as ready` })
    .last()
    .click();
  await expect(page.getByRole('alert').filter({ hasText: 'must be fixed' })).toBeVisible();
  await page.getByRole('button', { name: `Mark the other ${open - must} as ready` }).click();
  await expect.poll(async () => (await states()).filter((s) => ['goes-back', 'not-checked'].includes(s)).length).toBe(must);
  await expect.poll(async () => (await states()).filter((s) => s === 'handed-on').length).toBe(open - must + before.filter((s) => s === 'handed-on').length);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect.poll(states).toEqual(before);
  // Returned together they have one note.
  await page.getByRole('button', { name: `Return ${open} with a note` }).click();
  await page.getByLabel(`note for all ${open}`).fill('the contour is too heavy in all of these');
  await page.getByRole('button', { name: `Return ${open}`, exact: true }).click();
  await expect(page.getByText(`${open} drawings returned`)).toBeVisible();
  await expect.poll(async () => (await states()).filter((s) => s === 'returned').length).toBe(open + before.filter((s) => s === 'returned').length);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect.poll(states).toEqual(before);
  // Some that are no span, chosen one by one: by pointer, and by keyboard.
  await page.getByRole('button', { name: 'Clear choice' }).click();
  await options.nth(14).click({ modifiers: ['ControlOrMeta'] });
  await options.nth(17).click({ modifiers: ['ControlOrMeta'] });
  await options.nth(19).click({ modifiers: ['ControlOrMeta'] });
  await options.nth(17).click({ modifiers: ['ControlOrMeta'] });
  await expect(page.getByText(/^2 drawings: \d+, \d+$/)).toBeVisible();
  const lanesBox = page.getByRole('listbox', { name: /drawings/ });
  await options.nth(15).click();
  await expect(page.getByText(/^2 drawings/)).toHaveCount(0);
  await lanesBox.press(' ');
  await lanesBox.press('Control+ArrowRight');
  await lanesBox.press('Control+ArrowRight');
  await lanesBox.press(' ');
  await expect(page.getByText(/^2 drawings: \d+, \d+$/)).toBeVisible();
  const two = async () => [(await states())[2], (await states())[4]];
  const were = await two();
  const openOf = were.filter((s) => !['handed-on', 'returned'].includes(s ?? '')).length;
  await page.getByRole('button', { name: `Return ${openOf} with a note` }).click();
  await page.getByLabel(`note for all ${openOf}`).fill('these alone');
  await page.getByRole('button', { name: `Return ${openOf}`, exact: true }).click();
  await expect.poll(two).toEqual(['returned', 'returned']);
  expect((await states())[3]).toBe(before[3]);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect.poll(states).toEqual(before);
  // All findings of a kind on them are intended, with one reason and one undo.
  const found = async () => {
    const { drawings } = await (await page.request.get(`${base}/deliveries/${delivery}`)).json();
    return (drawings as { summary: { findings: number } | null }[]).map((d) => d.summary?.findings ?? 0);
  };
  const all = await found();
  await page.getByRole('button', { name: 'Mark findings as intended…' }).click();
  await page.getByLabel('why they are intended').fill('no such thing here');
  const kinds = new Set<string>();
  for (const d of (await (await page.request.get(`${base}/deliveries/${delivery}`)).json()).drawings.filter((_: unknown, i: number) => i === 15 || i === 17))
    for (const f of (await (await page.request.get(`${base}/drawings/${d.id}`)).json()).check.findings) kinds.add(f.kind);
  const kind = [...kinds][0] ?? '';
  await page.getByLabel('kind of finding').selectOption(kind);
  await page.getByRole('button', { name: 'Mark as intended', exact: true }).click();
  await expect(page.getByText(`${kind} marked as intended on`)).toBeVisible();
  // What was marked is in the log by its kind.
  const log = (await (await page.request.get(`${base}/log`)).json()) as { action: string; subject: string }[];
  expect(log.find((r) => r.action === 'marked as intended')?.subject).toContain(`every finding of the kind “${kind.replaceAll('-', ' ')}”`);
  await expect.poll(async () => (await found()).reduce((a, b) => a + b)).toBeLessThan(all.reduce((a, b) => a + b));
  expect((await found()).filter((n, i) => n !== all[i] && i !== 15 && i !== 17)).toEqual([]);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect.poll(found).toEqual(all);
});
