// Where nobody is a member yet: the page makes the first one, and every empty place says what belongs there and leads on.
import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';

test.use({ baseURL: process.env.EDDYMIST_EMPTY_URL });
test.skip(!process.env.EDDYMIST_EMPTY_URL, 'needs a server without members');

test('the first member is made, finds every place empty with its first step, and signs in again', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Create the first account' })).toBeVisible();
  await page.getByLabel('Setup code').fill('AAAA-BBBB-CCCC');
  await page.getByLabel('Your name').fill('Hanne Vogt');
  await page.getByLabel('E-mail address').fill('hanne@studio.example');
  await page.getByLabel('Password').fill('short');
  await page.getByLabel('Name of the production').fill('Low Tide');
  await page.getByRole('button', { name: 'Create account' }).click();
  await expect(page.getByRole('alert')).toContainText(/setup code/i);
  // What was typed is kept.
  await expect(page.getByLabel('Your name')).toHaveValue('Hanne Vogt');
  await page.getByLabel('Password').fill('a kettle of gulls');
  await page.getByRole('button', { name: 'Create account' }).click();
  await expect(page.getByRole('alert')).toContainText(/setup code/i);
  await page.getByLabel('Setup code').fill((process.env.EDDYMIST_SETUP_CODE ?? '').toLowerCase());
  await page.getByRole('button', { name: 'Create account' }).click();
  await expect(page.getByText('Low Tide').first()).toBeVisible();
  const first: [string, RegExp][] = [
    ['Pens', /add a pen from a sheet/i],
    ['Tablets', /warm.?up/i],
    ['Brushes', /Add a pen|pen/i],
    ['Guides', /guide/i],
    ['Checks', /guide|drawings/i],
  ];
  for (const [name, step] of first) {
    await page.getByRole('navigation').getByRole('link', { name }).click();
    await expect(page.getByRole('main')).toContainText(step);
    await expect(page.locator('.stop')).toHaveCount(0);
    const found = await new AxeBuilder({ page }).analyze();
    expect(found.violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => `${name}: ${v.id}`)).toEqual([]);
  }
  // Alone in a production, there is no team to look at.
  await expect(page.getByRole('navigation').getByRole('link', { name: 'Team' })).toHaveCount(0);
  await page.locator('#member').click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  // The door for the first member is shut.
  const again = await page.request.post('/api/v1/first-member', {
    data: { setup_code: process.env.EDDYMIST_SETUP_CODE, name: 'Second', email: 'second@studio.example', password: 'a kettle of gulls', production: 'Other' },
  });
  expect(again.status()).toBe(409);
  await page.getByLabel('E-mail address').fill('hanne@studio.example');
  await page.getByLabel('Password').fill('a kettle of gulls');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByText('Low Tide').first()).toBeVisible();
});
