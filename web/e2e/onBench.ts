// A fresh brush on the bench, and its fields.
import { expect, type Locator, type Page } from '@playwright/test';

export async function bench(page: Page, name: string, pen?: string, profile?: string) {
  await page.goto('/');
  await page.locator('.figure-row', { hasText: 'Dov Tarrant' }).getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('navigation').getByRole('link', { name: 'Brushes' }).click();
  if (pen) {
    await page.getByLabel('Match a pen').selectOption({ label: pen });
    await page.getByLabel('Through a tablet profile').selectOption(profile ? { label: profile } : { index: 1 });
  }
  await page.getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Make brush' }).click();
  await expect(page.getByRole('heading', { name, exact: true })).toBeVisible();
}

export const field = (page: Page, label: string) => page.getByLabel(label, { exact: true });

/** Opens a part of the brush by its tile. */
export async function open(page: Page, part: string) {
  await page
    .getByRole('group', { name: 'parts of the brush' })
    .getByRole('button', { name: new RegExp(`^${part}`) })
    .click();
  return page.locator('.part');
}

/** A control of whichever part it belongs to: the part is opened where it is not. */
export async function reach(page: Page, label: string) {
  const tiles = page.getByRole('group', { name: 'parts of the brush' }).getByRole('button');
  await field(page, label).or(tiles.first()).first().waitFor();
  for (let i = 0; (await field(page, label).count()) === 0 && i < (await tiles.count()); i++) await tiles.nth(i).click();
  return field(page, label);
}

export async function type(page: Page, label: string, value: string) {
  const at = await reach(page, label);
  await at.fill(value);
  await at.press('Enter');
}

/** Where the origin of a sheet's page lies in the window, px. */
export async function originOf(sheet: Locator) {
  const box = (await sheet.boundingBox()) as { x: number; y: number };
  const view = (await sheet.evaluate((c) => c.parentElement?.getAttribute('data-view') ?? '')).split(' ').map(Number);
  return { x: box.x + (view[4] ?? 0), y: box.y + (view[5] ?? 0), scale: view[0] ?? 1 };
}
