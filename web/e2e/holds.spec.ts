// It holds: the server killed during an upload, a check and a save; PostgreSQL stopped and started; a full disk; a backup restored.
// Nothing acknowledged is lost, nothing runs twice, and the page says what happened and goes on by itself.
import { execFileSync, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { connect } from 'node:net';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { png } from './files';
import { Cluster, PROGRAM, Server, scratch } from './ownServer';

test.skip(!PROGRAM, 'needs the command');
const PASSWORD = 'a kettle of gulls';
// Every test stops and starts a server; on a busy machine that takes a while.
test.setTimeout(300_000);
const [W, H] = [960, 540];
const drawing = (k: number, at = 1) => png(at * W, at * H, (x, y) => x > 40 + k && x < at * W - 60 && y % 60 < 6);
const GUIDE = {
  format: 'eddymist/line-guide',
  version: 1,
  name: 'plain',
  page: { width_px: W, height_px: H },
  roles: [{ name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } }],
};

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

async function delivery(name: string) {
  const guide_id = (await (await lead.post(`${p}/guides`, { data: { ...GUIDE, name } })).json()).id;
  return `${p}/deliveries/${(await (await lead.post(`${p}/deliveries`, { data: { name, guide_id, pattern: '' } })).json()).id}`;
}
const send = (url: string, k: number, at = 1) =>
  lead.post(`${url}/drawings`, { multipart: { file: { name: `${k}.png`, mimeType: 'image/png', buffer: drawing(k, at) } } });
type Row = { file: string; standing: string };
const rows = async (url: string): Promise<Row[]> => (await (await lead.get(url)).json()).drawings;
const waiting = async (url: string) => (await rows(url)).filter((d) => d.standing === 'waiting').length;

test('killed during an upload and a check: what was acknowledged is there, what was not is not, and every drawing is measured once', async () => {
  const url = await delivery('killed');
  const sent = await Promise.all(Array.from({ length: 24 }, (_, k) => send(url, k, 3)));
  for (const s of sent) expect(s.status()).toBe(200);
  // Half of another upload is on its way.
  const cookie = (await lead.storageState()).cookies.map((c) => `${c.name}=${c.value}`).join('; ');
  const [host, port] = server.address.replace('http://', '').split(':');
  const socket = connect(Number(port), host);
  socket.on('error', () => {});
  const body = `--x\r\ncontent-disposition: form-data; name="file"; filename="half.png"\r\n\r\n`;
  socket.write(
    `POST ${url}/drawings HTTP/1.1\r\nhost: ${host}\r\ncookie: ${cookie}\r\ncontent-type: multipart/form-data; boundary=x\r\ncontent-length: 90000\r\n\r\n${body}`,
  );
  socket.write(drawing(50));
  await new Promise((r) => setTimeout(r, 150));
  await server.kill();
  const before = Number(cluster.psql("SELECT count(*) FROM drawings WHERE state = 'done'"));
  const sums = cluster.psql("SELECT string_agg(md5(result::text), ',' ORDER BY file) FROM drawings WHERE state = 'done'");
  await server.start();
  await expect.poll(() => waiting(url), { timeout: 60_000 }).toBe(0);
  const all = await rows(url);
  expect(all.map((d) => d.file).sort()).toEqual(Array.from({ length: 24 }, (_, k) => `${k}.png`).sort());
  expect(all.every((d) => d.standing === 'may-go-on')).toBe(true);
  // What was measured before stands as it was.
  const then = cluster.psql("SELECT string_agg(md5(result::text), ',' ORDER BY file) FROM drawings WHERE state = 'done'").split(',');
  expect(before).toBeLessThan(24);
  for (const sum of sums.split(',').filter(Boolean)) expect(then).toContain(sum);
  // The same upload again is no second drawing.
  await send(url, 3, 3);
  expect(await rows(url)).toHaveLength(24);
});

test('killed during saves: every version that was acknowledged is there, whole and in its order', async () => {
  const brush = (k: number) => ({ format: 'eddymist/brush', version: 1, name: 'kept', nib: { shape: 'round' }, weight: [[0, 0.2 + 0.001 * k]] });
  const library = { format: 'eddymist/brush-library', version: 1, brushes: [{ brush: brush(0), tags: [] }], roll: [] };
  const brought = await lead.post(`${p}/library`, { data: { library: JSON.stringify(library) } });
  expect(brought.status(), await brought.text()).toBe(200);
  const { id } = (await (await lead.get(`${p}/brushes`)).json())[0];
  let kept = 1;
  const saving = (async () => {
    for (let k = 1; k < 500; k++) {
      const answer = await lead.post(`${p}/brushes/${id}/versions`, { data: { brush: brush(k), from_version: kept, says: `${k}` } });
      if (answer.status() === 201) kept++;
    }
  })().catch(() => {});
  await new Promise((r) => setTimeout(r, 400));
  await server.kill();
  await saving;
  await server.start();
  const now = await (await lead.get(`${p}/brushes/${id}`)).json();
  // One more may have been kept whose answer was lost; none that was answered is missing.
  expect(kept).toBeGreaterThan(3);
  expect([kept, kept + 1]).toContain(now.versions.length);
  for (const v of now.versions) expect(v.brush.weight[0][1]).toBeCloseTo(0.2 + 0.001 * (v.version - 1), 6);
  expect(now.current_version).toBe(now.versions.length);
});

test('PostgreSQL stopped and started: the page says so and keeps what was typed, and all goes on by itself', async ({ page }) => {
  const url = await delivery('stopped');
  for (let k = 0; k < 8; k++) await send(url, k);
  await page.goto(server.address);
  await page.getByLabel('E-mail address').fill('hanne@studio.example');
  await page.getByLabel('Password').fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation')).toBeVisible();
  await page.goto(`${server.address}/account`);
  await page.getByLabel('Current password').fill(PASSWORD);
  await page.getByLabel(/New password/).fill('another kettle of gulls');
  cluster.stop();
  await page.getByRole('button', { name: 'Save password' }).click();
  await expect(page.getByRole('alert').first()).toContainText(/database did not answer|Try again|try again/, { timeout: 60_000 });
  const refused = await lead.get(`${p}/pens`);
  expect([refused.status(), refused.headers()['content-type']]).toEqual([503, 'application/problem+json']);
  expect((await lead.get('/readyz')).status()).toBe(503);
  expect((await lead.get('/healthz')).status()).toBe(200);
  cluster.start();
  await expect.poll(async () => (await lead.get('/readyz')).status(), { timeout: 60_000 }).toBe(200);
  // The same server, without a hand on it: the checks that waited are done, and the page's work is still there to be sent.
  await expect.poll(() => waiting(url).catch(() => -1), { timeout: 90_000 }).toBe(0);
  expect(await rows(url)).toHaveLength(8);
  const late = await send(url, 20);
  expect(late.status()).toBe(200);
  await expect.poll(() => waiting(url), { timeout: 60_000 }).toBe(0);
  await page.getByRole('button', { name: 'Save password' }).click();
  await expect(page.getByText('It is changed')).toBeVisible();
  await page.request.put(`${server.address}/api/v1/account/password`, { data: { current: 'another kettle of gulls', new: PASSWORD } });
  lead = await server.signIn('hanne@studio.example', PASSWORD);
});

test('a full disk: what no longer fits is refused in a sentence, nothing is half there, and with room it goes on', async () => {
  const url = await delivery('full');
  expect((await send(url, 0)).status()).toBe(200);
  await expect.poll(() => waiting(url)).toBe(0);
  cluster.stop();
  // No file of the database may grow over 20 MiB; noise does not pack.
  cluster.start('20480');
  await expect.poll(async () => (await lead.get('/readyz')).status(), { timeout: 60_000 }).toBe(200);
  const noise = () => ({
    // Without a number in the name each is a drawing of its own.
    file: {
      name: `${randomBytes(6)
        .toString('hex')
        .replace(/\d/g, (d) => 'ghijklmnop'[Number(d)] ?? '')}.png`,
      mimeType: 'image/png',
      buffer: Buffer.concat([drawing(1), randomBytes(6 << 20)]),
    },
  });
  let full: Awaited<ReturnType<typeof lead.post>> | undefined;
  let taken = 0;
  for (let k = 0; k < 12 && !full; k++) {
    const answer = await lead.post(`${url}/drawings`, { multipart: noise() });
    if (answer.status() === 200) taken++;
    else full = answer;
  }
  expect(full?.status(), server.log).toBe(507);
  expect(await full?.text()).toMatch(/disk is full.*nothing was changed/);
  expect(await rows(url)).toHaveLength(1 + taken);
  cluster.stop();
  cluster.start();
  await expect.poll(async () => (await lead.get('/readyz')).status(), { timeout: 60_000 }).toBe(200);
  expect((await lead.post(`${url}/drawings`, { multipart: noise() })).status()).toBe(200);
  await expect.poll(() => waiting(url), { timeout: 60_000 }).toBe(0);
  expect(await rows(url)).toHaveLength(2 + taken);
});

test('a backup restores everything into an empty database, and nothing into one that is not; no log holds a secret', async () => {
  const file = scratch('low-tide.eddymist');
  const env = { ...process.env, DATABASE_URL: cluster.url };
  execFileSync(PROGRAM, ['backup', file], { env });
  const again = spawnSync(PROGRAM, ['backup', file], { env, encoding: 'utf8' });
  expect([again.status, again.stderr]).toEqual([2, expect.stringContaining('is there already')]);
  const wrong = spawnSync(PROGRAM, ['restore', file], { env, encoding: 'utf8' });
  expect([wrong.status, wrong.stderr]).toEqual([2, expect.stringMatching(/has \d+ tables already/)]);
  cluster.psql('CREATE DATABASE anew');
  const anew = cluster.of('anew');
  execFileSync(PROGRAM, ['restore', file], { env: { ...env, DATABASE_URL: anew } });
  const counts = ['drawings', 'brush_versions', 'images', 'audit', 'members'].map(
    (t) => `SELECT count(*)::text || md5(string_agg(t::text, '' ORDER BY t::text)) FROM ${t} t`,
  );
  for (const sql of counts) expect(cluster.psql(sql, 'anew'), sql).toBe(cluster.psql(sql));
  const second = new Server(anew);
  await second.start();
  const page = await lead.get(`${server.address}/api/v1/session`);
  expect(page.status()).toBe(200);
  const answer = await lead.post(`${second.address}/api/v1/session`, { data: { email: 'hanne@studio.example', password: PASSWORD } });
  expect(answer.status()).toBe(200);
  await second.kill();
  const broken = scratch('broken.eddymist', 'this is no backup');
  cluster.psql('CREATE DATABASE empty');
  const refused = spawnSync(PROGRAM, ['restore', broken], { env: { ...env, DATABASE_URL: cluster.of('empty') }, encoding: 'utf8' });
  expect([refused.status, refused.stderr]).toEqual([1, expect.stringContaining('pg_restore did not do it')]);
  // What the servers wrote down holds no password, no cookie, no hash.
  const said = server.log + second.log;
  expect(said).not.toMatch(new RegExp(`${PASSWORD}|another kettle|argon2|eddymist=`));
});
