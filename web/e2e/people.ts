// Members of the demo: signed in on the page, or by the interface; and where the place names lead.
import { type APIRequestContext, expect, type Page, request } from '@playwright/test';

export const PASSWORD = 'last tram home';
export const baseURL = process.env.EDDYMIST_URL ?? 'http://127.0.0.1:8380';

/** Signs in on the page, and gives the address of the member's production. */
export async function signIn(page: Page, who: string) {
  await page.goto('/');
  await page.locator('.figure-row', { hasText: who }).getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation')).toBeVisible();
  return production(page.request);
}

/** A member by the interface alone. */
export async function asMember(email: string): Promise<APIRequestContext> {
  const who = await request.newContext({ baseURL });
  expect((await who.post('/api/v1/session', { data: { email, password: PASSWORD } })).ok()).toBe(true);
  return who;
}

/** The address of a member's first production. */
export const production = async (who: APIRequestContext) => `/api/v1/productions/${(await (await who.get('/api/v1/session')).json()).productions[0].id}`;

/** Goes to one of the places in the top bar. */
export const place = (page: Page, name: string) => page.getByRole('navigation').getByRole('link', { name }).click();
