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
  // After a row that is nobody's, or no longer there, nothing follows: that is said, and is no end of the list.
  for (const list of ['brushes', 'pens', 'profiles', 'trials', 'archive'])
    expect((await lead.get(`${p}/${list}?after=00000000-0000-4000-8000-000000000000`)).status(), list).toBe(409);
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
  expect((await lead.get(`${url}/drawings?after=${id}`)).status()).toBe(409);
  await page.context().addCookies((await lead.storageState()).cookies);
  await page.goto(`${server.address}/checks/${id}?drawing=${rest[1]?.at(-1)?.id}`);
  await expect(page.getByRole('option', { name: /^drawing 229,/ })).toHaveAttribute('aria-selected', 'true');
});

/** Adds versions to a thing that has one, as if they had been saved one after the other. */
const versions = (of: 'brush' | 'guide', id: string, to: number, says: string) =>
  cluster.psql(
    `INSERT INTO ${of}_versions (${of}_id, version, ${of}, ${says} created_by) SELECT ${of}_id, g, ${of}, ${says && "'one of many',"} created_by
     FROM ${of}_versions, generate_series(2, ${to}) g WHERE ${of}_id = '${id}' AND version = 1`,
  );

test('a brush of 405 versions and a guide of 205 come with their newest, and the page has them all', async ({ page }) => {
  const { id } = await (await lead.post(`${p}/brushes`, { data: { name: 'often saved' } })).json();
  versions('brush', id, 405, 'says,');
  // Somebody went back to an early one: it comes too.
  cluster.psql(`UPDATE brushes SET current_version = 3 WHERE id = '${id}'`);
  const numbers = (rows: { version: number }[]) => rows.map((v) => v.version);
  const view = await (await lead.get(`${p}/brushes/${id}`)).json();
  const down = (from: number, to: number) => Array.from({ length: from - to + 1 }, (_, k) => from - k);
  expect([numbers(view.versions), view.versions_in_all]).toEqual([[...down(405, 206), 3], 405]);
  const older = async (before: number) => numbers(await (await lead.get(`${p}/brushes/${id}/versions?before=${before}`)).json());
  expect([await older(206), await older(6), await older(1)]).toEqual([down(205, 6), down(5, 1), []]);
  // One that no answer showed yet can be restored.
  expect((await lead.post(`${p}/brushes/${id}/current`, { data: { version: 2, from_version: 3 } })).status()).toBe(200);
  const guides = `${p}/guides`;
  const role = { name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } };
  const guide = { format: 'eddymist/line-guide', version: 1, name: 'much changed', page: { width_px: 200, height_px: 100 }, roles: [role] };
  const made = (await (await lead.post(guides, { data: guide })).json()).id;
  versions('guide', made, 205, '');
  const first = numbers(await (await lead.get(`${guides}/${made}/versions`)).json());
  expect([first, numbers(await (await lead.get(`${guides}/${made}/versions?before=6`)).json())]).toEqual([down(205, 6), down(5, 1)]);
  await page.context().addCookies((await lead.storageState()).cookies);
  await page.goto(`${server.address}/brushes/${id}/compare`);
  await expect(page.getByRole('combobox').first().locator('option')).toHaveCount(405);
});

test('an archive of 230 things comes in two pages; one that was restored meanwhile ends no list', async ({ page }) => {
  cluster.psql(
    `INSERT INTO trial_pages (id, production_id, name, page, revision, created_by, archived_at)
     SELECT gen_random_uuid(), p.id, 'page ' || g, '{"strokes": []}', 1, m.id, now() - g * interval '1 minute' FROM productions p, members m, generate_series(1, 230) g`,
  );
  const archive = await pages(`${p}/archive`);
  expect([lengths(archive), once(archive)]).toEqual([[200, 30], 230]);
  expect(archive.flat().map((row) => row.name)).toEqual(Array.from({ length: 230 }, (_, k) => `page ${k + 1}`));
  await page.context().addCookies((await lead.storageState()).cookies);
  await page.goto(`${server.address}/archive`);
  await expect(page.getByRole('heading', { name: '230 archived' })).toBeVisible();
  const back = archive[0]?.at(-1)?.id;
  expect((await lead.delete(`${p}/archive/trials/${back}`)).status()).toBe(200);
  expect((await lead.get(`${p}/archive?after=${back}`)).status()).toBe(409);
});
