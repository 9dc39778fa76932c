// Long lists: answered a page at a time, in their order, each row once; on the page all of them.
import { type APIRequestContext, expect, test } from '@playwright/test';
import { png } from './files';
import { Cluster, PROGRAM, Server } from './ownServer';

test.skip(!PROGRAM, 'needs the command');
test.setTimeout(300_000);
const PASSWORD = 'a kettle of gulls';
const PAGE = 200;
const cluster = new Cluster();
let server: Server;
let lead: APIRequestContext;
let p = '';

test.beforeAll(async () => {
  cluster.start();
  server = new Server(cluster.url);
  await server.start();
  ({ lead, p } = await server.first(PASSWORD));
});
test.afterAll(async () => {
  await server.kill();
  cluster.remove();
});

type Row = { id: string; name?: string; file?: string };
/** All pages of a list, each as it was answered. */
async function pages(url: string): Promise<Row[][]> {
  const all: Row[][] = [];
  for (let after = ''; ; after = `?after=${all.at(-1)?.at(-1)?.id}`) {
    const page = await (await lead.get(`${url}${after}`)).json();
    all.push(page);
    if (page.length < PAGE) return all;
  }
}
const lengths = (of: Row[][]) => of.map((page) => page.length);
const once = (of: Row[][]) => new Set(of.flat().map((row) => row.id)).size;

test('a rack of 405 brushes comes in three pages, and the page shows and searches all of them', async ({ page }) => {
  const brush = (k: number) => ({ format: 'eddymist/brush', version: 1, name: `brush ${k}`, nib: { shape: 'round' }, weight: [[0, 0.2 + 0.001 * k]] });
  const brushes = Array.from({ length: 405 }, (_, k) => ({ brush: brush(k), tags: [] }));
  const library = JSON.stringify({ format: 'eddymist/brush-library', version: 1, brushes, roll: [] });
  const brought = await lead.post(`${p}/library`, { data: { library } });
  expect(await brought.json()).toEqual({ made: 405, versions: 0, left: 0, roll: 0 });
  const rack = await pages(`${p}/brushes`);
  expect([lengths(rack), once(rack)]).toEqual([[200, 200, 5], 405]);
  // The same again goes on the same brushes: nothing is doubled, whichever page it is on.
  expect(await (await lead.post(`${p}/library`, { data: { library } })).json()).toEqual({ made: 0, versions: 0, left: 405, roll: 0 });
  // A row that is nobody's begins nothing anew.
  expect(await (await lead.get(`${p}/brushes?after=00000000-0000-4000-8000-000000000000`)).json()).toEqual([]);
  expect((await lead.get(`${p}/brushes?after=seven`)).status()).toBe(400);
  await page.context().addCookies((await lead.storageState()).cookies);
  await page.goto(`${server.address}/brushes`);
  await expect(page.locator('.rack-link')).toHaveCount(405);
  await page.getByLabel('find brushes').fill('brush 404');
  await expect(page.locator('.rack-link')).toHaveCount(1);
});

test('a delivery of 230 drawings comes with its first 200, in order, and the page has the rest', async ({ page }) => {
  const role = { name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } };
  const guide = { format: 'eddymist/line-guide', version: 1, name: 'plain', page: { width_px: 200, height_px: 100 }, roles: [role] };
  const guide_id = (await (await lead.post(`${p}/guides`, { data: guide })).json()).id;
  const { id } = await (await lead.post(`${p}/deliveries`, { data: { name: 'long', guide_id, pattern: '{drawing}' } })).json();
  const url = `${p}/deliveries/${id}`;
  // Each a picture of its own; sent from the last to the first.
  const file = (k: number) => ({
    name: `${k}.png`,
    mimeType: 'image/png',
    buffer: png(200, 100, (x, y) => x > 10 && x < 100 + (k % 90) && Math.abs(y - 20 - k / 4) < 3),
  });
  for (let k = 229; k >= 0; k--) expect((await lead.post(`${url}/drawings`, { multipart: { file: file(k) } })).status()).toBe(200);
  const view = await (await lead.get(url)).json();
  expect([view.in_all, view.drawings.length]).toEqual([230, PAGE]);
  const rest = await pages(`${url}/drawings`);
  expect([lengths(rest), once(rest)]).toEqual([[200, 30], 230]);
  expect(rest.flat().map((row) => row.file)).toEqual(Array.from({ length: 230 }, (_, k) => `${k}.png`));
  expect(rest[0]?.map((row) => row.id)).toEqual(view.drawings.map((row: Row) => row.id));
  expect((await lead.get(`${url}/drawings?after=${id}`)).status()).toBe(404);
  await page.context().addCookies((await lead.storageState()).cookies);
  await page.goto(`${server.address}/checks/${id}?drawing=${rest[1]?.at(-1)?.id}`);
  await expect(page.getByRole('option', { name: /^drawing 229,/ })).toHaveAttribute('aria-selected', 'true');
});
