// A fresh brush on the bench, and its fields.
import { expect, type Page } from '@playwright/test';

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
export async function type(page: Page, label: string, value: string) {
  await field(page, label).fill(value);
  await field(page, label).press('Enter');
}
