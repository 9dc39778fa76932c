// Several guides: copied, renamed, out as a file and in again; what a change would do is tried before it is saved, with a note for its
// version; a delivery chooses its guide. It comes after those that look at the demo.
import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { png } from './files';
import { place, signIn } from './people';

test('a guide is copied, changed, tried on a delivery, saved with a note, exported and imported', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  await place(page, 'Guides');
  const tabs = page.getByRole('navigation', { name: 'line guides' });
  await expect(tabs.getByRole('button', { name: 'Night Tram line guide', exact: true })).toHaveAttribute('aria-pressed', 'true');
  const more = tabs.getByRole('button', { name: 'New, copy, file' });
  await more.click();
  await page.getByRole('button', { name: 'Copy this guide' }).click();
  await expect(page.getByRole('heading', { name: 'Night Tram line guide, copy' })).toBeVisible();
  // What is begun is there after a reload.
  await page.reload();
  await page.getByRole('button', { name: 'rename the line guide' }).click();
  await page.getByLabel('name of the line guide').fill('Close shots');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Save as version 1' }).click();
  await expect(tabs.getByRole('button', { name: 'Close shots', exact: true })).toHaveAttribute('aria-pressed', 'true');

  // Changed: said in words, tried on the demo's delivery, and saved with why.
  const width = page.getByLabel('target of contour in px');
  await width.fill('7');
  await width.press('Tab');
  const changed = page.getByRole('region', { name: 'what is changed' });
  await expect(changed).toContainText('contour: target px: 6 → 7');
  await changed.getByLabel('delivery to try it on').selectOption({ label: 'Shot 012, delivery of 24 November' });
  await changed.getByRole('button', { name: 'Try on this delivery' }).click();
  await expect(changed.getByRole('button', { name: 'Try on this delivery' })).toBeVisible({ timeout: 60_000 });
  await expect(changed.getByRole('status')).toContainText(/^\d\d drawings would change of 32 in Shot 012/);
  await expect(changed.getByRole('status')).toContainText(/passes → needs fixescontour: within → thin, [\d.]+ px \(7\.0 ± 10 %\)/);
  const id = new URL(page.url()).searchParams.get('guide');
  const versions = async () => (await (await page.request.get(`${base}/guides/${id}/versions`)).json()) as { version: number; note: string }[];
  expect(await versions()).toHaveLength(1);
  await changed.getByLabel('Note for this version').fill('close shots are heavier');
  await page.getByRole('button', { name: 'Save as version 2' }).click();
  await expect(page.getByText('“close shots are heavier”')).toBeVisible();
  expect((await versions()).map((v) => v.note)).toEqual(['close shots are heavier', '']);

  // Out and in again: the same guide, until it is saved only in this browser.
  await more.click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export this guide (JSON)' }).click()]);
  expect(download.suggestedFilename()).toBe('Close shots-v2.json');
  const text = readFileSync(await download.path(), 'utf8');
  const file = (body: string) => page.getByLabel('line guide file').setInputFiles({ name: 'g.json', mimeType: 'application/json', buffer: Buffer.from(body) });
  await file('{"format":"something else"}');
  await expect(page.getByText(/no line guide: it wants/)).toBeVisible();
  await file(text.replace('Close shots', 'From a file'));
  await expect(page.getByRole('heading', { name: 'From a file' })).toBeVisible();
  await expect(width).toHaveValue('7.0');
  await page.getByRole('button', { name: 'Discard new guide' }).click();
  await expect(page.getByRole('heading', { name: 'From a file' })).toHaveCount(0);

  // A delivery is checked against the guide that is chosen for it, and shows in the list what it looks like.
  await place(page, 'Checks');
  const drawing = png(1920, 1080, (x, y) => x > 200 && x < 1700 && y % 200 < 7);
  await page.getByLabel('drawings', { exact: true }).setInputFiles({ name: '9_pia_1.png', mimeType: 'image/png', buffer: drawing });
  await page.getByLabel('Name of the delivery').fill('close');
  await page.getByLabel('Line guide').selectOption({ label: 'Close shots' });
  await page.getByRole('button', { name: 'Check 1 drawing' }).click();
  await expect(page.getByText(/Close shots, version 2/)).toBeVisible();
  await expect(page.getByText(/1 drawing to decide on|1 passed/).first()).toBeVisible();
  await place(page, 'Checks');
  await expect(page.getByRole('img', { name: 'how 1 of 1 drawings stand' }).last()).toBeVisible();
});
