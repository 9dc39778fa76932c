// Trust: who gets in and who is not kept out, on a server and a database of its own. Wrong passwords, sessions, foreign pages, bodies too
// large, accounts that are stuck, two people at one thing, what a machine sweeps, measures and keeps.
import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, statSync } from 'node:fs';
import { request as ask, get } from 'node:http';
import { type APIRequestContext, expect, request, test } from '@playwright/test';
import { png } from './files';
import { Cluster, PROGRAM, Server, scratch } from './ownServer';

test.skip(!PROGRAM, 'needs the program');
test.describe.configure({ mode: 'serial', timeout: 240_000 });

const cluster = new Cluster();
let server: Server;
let lead: APIRequestContext;
let p = '';
const PASSWORD = 'a kettle of gulls';
const from = (address: string) => ({ 'x-forwarded-for': address });
const anew = (headers: Record<string, string> = {}) => request.newContext({ baseURL: server.address, extraHTTPHeaders: headers });
const attempt = async (email: string, password: string, address: string) => (await anew(from(address))).post('/api/v1/session', { data: { email, password } });
const keep = (...args: string[]) => execFileSync(PROGRAM, args, { env: { ...process.env, DATABASE_URL: cluster.url }, encoding: 'utf8' });

/** Somebody invited into the production, with an account of their own. */
async function joined(name: string, part: string) {
  const email = `${name.toLowerCase()}@studio.example`;
  const invited = await (await lead.post(`${p}/invitations`, { data: { email, part } })).json();
  const who = await anew();
  const answer = await who.post(`/api/v1/invitations${invited.link.replace('/join', '')}`, { data: { name, password: PASSWORD } });
  expect(answer.status(), await answer.text()).toBe(200);
  return { who, email, id: (await answer.json()).member.id as string };
}

test.beforeAll(async () => {
  cluster.start();
  server = new Server(cluster.url);
  await server.start('--trusted-proxy', '127.0.0.1', '--metrics', '127.0.0.1:9481');
});
test.afterAll(async () => {
  await server?.kill('SIGKILL');
  cluster.remove();
});

test('the first member needs the code that the console printed, whoever comes first', async () => {
  const stranger = await anew();
  const body = { name: 'Mallory', email: 'm@x.example', password: PASSWORD, production: 'Mine' };
  for (const setup_code of ['', 'AAAA-AAAA-AAAA']) expect((await stranger.post('/api/v1/first-member', { data: { ...body, setup_code } })).status()).toBe(403);
  ({ lead, p } = await server.first(PASSWORD));
  // Used up, also the right one is told nothing but that it is too late.
  expect((await stranger.post('/api/v1/first-member', { data: { ...body, setup_code: server.setupCode() } })).status()).toBe(409);
  expect(cluster.psql('SELECT count(*) FROM setup_codes')).toBe('0');
});

test('wrong passwords lock a network out of an address and nobody else, and tell nobody which addresses there are', async () => {
  const words: string[] = [];
  for (const email of ['hanne@studio.example', 'nobody@studio.example'])
    for (let k = 0; k < 7; k++) {
      const answer = await attempt(email, 'wrong guess', `203.0.113.${k}`);
      words.push(`${answer.status()} ${(await answer.json()).detail.replace(/\d+/g, 'n')}`);
      if (answer.status() === 429) expect(Number(answer.headers()['retry-after'])).toBeGreaterThan(0);
    }
  // The same words for who is there and who is not; from the sixth on no more are looked at.
  expect(words.slice(0, 7)).toEqual(words.slice(7));
  expect(words.map((w) => w.slice(0, 3)).slice(0, 7)).toEqual(['401', '401', '401', '401', '401', '429', '429']);
  // The stranger's network is locked, also with the right password; the member's own is not.
  expect((await attempt('hanne@studio.example', PASSWORD, '203.0.113.77')).status()).toBe(429);
  expect((await attempt('hanne@studio.example', PASSWORD, '198.51.100.7')).status()).toBe(200);
  // What was typed as an address is kept nowhere.
  expect(cluster.psql('SELECT string_agg(f::text, $$ $$) FROM sign_in_failures f')).not.toContain('studio.example');
});

test('an address that nobody has takes as long to refuse as a wrong password', async () => {
  const took = async (email: string, k: number) => {
    const start = performance.now();
    expect((await attempt(email, 'wrong guess', `198.51.${k}.1`)).status()).toBe(401);
    return performance.now() - start;
  };
  const [there, not]: [number[], number[]] = [[], []];
  for (let k = 0; k < 11; k++) {
    there.push(await took('hanne@studio.example', 101 + k));
    not.push(await took('nobody@studio.example', 101 + k));
  }
  const median = (v: number[]) => v.sort((a, b) => a - b)[5] ?? 0;
  const ratio = median(not) / median(there);
  expect(ratio).toBeGreaterThan(0.5);
  expect(ratio).toBeLessThan(2);
});

test('guesses from one network are slowed down before anything is looked at', async () => {
  const all = await Promise.all(Array.from({ length: 60 }, (_, k) => attempt(`g${k}@x.example`, 'x', '192.0.2.5').then((a) => a.status())));
  expect(all.filter((s) => s === 429).length).toBeGreaterThan(15);
  expect((await attempt('hanne@studio.example', PASSWORD, '198.51.100.9')).status()).toBe(200);
});

test('a session is new at every sign-in, is saved by the browser alone, and holds no password', async () => {
  const who = await anew(from('198.51.100.8'));
  const enter = async () => {
    const answer = await who.post('/api/v1/session', { data: { email: 'hanne@studio.example', password: PASSWORD } });
    return answer.headers()['set-cookie'] ?? '';
  };
  const [one, two] = [await enter(), await enter()];
  for (const c of [one, two]) expect(c).toMatch(/^eddymist=[^;]+; HttpOnly; SameSite=Strict; Path=\/; /);
  expect(one.split(';')[0]).not.toBe(two.split(';')[0]);
  // The one of before is no longer one, at the server too.
  const old = await anew({ cookie: one.split(';')[0] ?? '' });
  expect((await (await old.get('/api/v1/session')).json()).member).toBeNull();
  const hash = cluster.psql("SELECT password_hash FROM members WHERE email = 'hanne@studio.example'");
  const held = cluster.psql("SELECT count(*), count(*) FILTER (WHERE position(convert_to('argon2', 'UTF8') IN data) > 0) FROM tower_sessions.session");
  expect(hash).toMatch(/^\$argon2id\$/);
  expect(held).toMatch(/^[1-9]\d*\|0$/);
});

test('a request by another name, or from another site’s page, is refused; what is private is nobody’s to keep', async () => {
  const status = async (path: string, headers: Record<string, string>, method = 'GET') => (await lead.fetch(path, { method, headers })).status();
  // The host's name is what the client says, whatever the connection is to.
  const as = (host: string) =>
    new Promise<number>((done) => get(`${server.address}/api/v1/session`, { headers: { host } }, (r) => done(r.resume().statusCode ?? 0)));
  expect(await as('rebound.example')).toBe(421);
  expect(await as('localhost:1')).toBe(200);
  expect(await status('/api/v1/session', { origin: 'https://evil.example' }, 'DELETE')).toBe(403);
  expect(await status('/api/v1/session', { 'sec-fetch-site': 'cross-site' }, 'DELETE')).toBe(403);
  const answer = await lead.get(`${p}/members`);
  expect(answer.headers()['cache-control']).toBe('no-store');
  expect(answer.headers()['x-request-id']).toMatch(/^[0-9a-f-]{36}$/);
  const again = await lead.get(`${p}/members`, { headers: { 'if-none-match': answer.headers().etag ?? '' } });
  expect([again.status(), (await again.body()).length]).toEqual([304, 0]);
});

test('a body is as large as its route takes, and what costs nothing is asked first', async () => {
  const cookie = (await lead.storageState()).cookies.map((c) => `${c.name}=${c.value}`).join('; ');
  // The body is sent when the server asks for it (Expect: 100-continue): what is refused by its head needs none.
  const refused = (url: string, length: number, more: Record<string, string> = {}, method = 'POST') =>
    new Promise<string>((done, failed) => {
      const headers = { 'content-type': 'application/json', 'content-length': length, expect: '100-continue', cookie, ...more };
      const r = ask(`${server.address}${url}`, { method, headers }, async (answer) => {
        let text = '';
        for await (const part of answer) text += part;
        done(`${answer.statusCode} ${JSON.parse(text).detail}`);
        r.destroy();
      });
      r.on('continue', () => r.end('x'.repeat(length)));
      r.on('error', failed);
      r.flushHeaders();
    });
  expect(await refused(`${p}/invitations`, 70_000)).toBe('413 this is too large: this route takes up to 64 KB');
  expect(await refused(`${p}/guides`, 1_200_000)).toBe('413 this is too large: this route takes up to 1 MB');
  expect(await refused(`${p}/profiles`, 17_000_000)).toBe('413 this is too large: this route takes up to 16 MB');
  expect(await refused(`${p}/trials`, 68_000_000)).toBe('413 this is too large: this route takes up to 64 MB');
  expect(await refused(`${p}/trials`, 2_000_000, { cookie: '' })).toMatch(/^401 /);
  expect(await refused(`${p}/trials/00000000-0000-4000-8000-000000000000`, 2_000_000, {}, 'PUT')).toMatch(/^404 /);
  expect(await refused(`${p}/brushes`, 20, { 'content-type': 'text/plain' })).toMatch(/^415 /);
  expect(await refused(`${p}/brushes`, 20)).toMatch(/^400 /);
});

test('an invitation ends with what its lead may say; addresses are the leads’ to see; a name gives no right', async () => {
  const other = await joined('Odile', 'lead');
  const invited = await (await other.who.post(`${p}/invitations`, { data: { email: 'guest@studio.example', part: 'lead' } })).json();
  expect((await lead.put(`${p}/members/${other.id}`, { data: { part: 'artist', from: 'lead' } })).status()).toBe(200);
  const guest = await anew(from('198.51.100.20'));
  expect((await guest.get(`/api/v1/invitations${invited.link.replace('/join', '')}`)).status()).toBe(404);
  const viewer = await joined('Vera', 'viewer');
  const [seen, whole] = await Promise.all([viewer.who, lead].map(async (w) => JSON.stringify(await (await w.get(`${p}/log`)).json())));
  expect(whole).toContain('guest@studio.example');
  expect(seen).not.toContain('@');
  // Odile of the manifests is nobody until a lead says so.
  const names = { files: [], pattern: '', csv: 'file,artist\na.png,Odile\n' };
  expect((await lead.post(`${p}/names`, { data: names })).status()).toBe(200);
  expect((await other.who.put(`${p}/artists`, { data: { artist: 'Odile', member: other.id } })).status()).toBe(403);
  expect((await lead.put(`${p}/artists`, { data: { artist: 'Odile', member: other.id } })).status()).toBe(200);
  expect(await (await lead.get(`${p}/artists`)).json()).toEqual([{ artist: 'odile', member: other.id, fits: null }]);
});

test('who forgot a password gets in again by a lead’s link; an account is shut, opened and erased; a lone lead is not lost', async () => {
  const mila = await joined('Mila', 'artist');
  const { link } = await (await lead.post(`${p}/members/${mila.id}/reset`)).json();
  const secret = link.replace('/reset/', '');
  const again = await anew(from('198.51.100.30'));
  expect(await (await again.get(`/api/v1/resets/${secret}`)).json()).toEqual({ name: 'Mila' });
  expect((await again.post(`/api/v1/resets/${secret}`, { data: { password: 'another kettle' } })).status()).toBe(200);
  expect((await again.post(`/api/v1/resets/${secret}`, { data: { password: 'a third kettle' } })).status()).toBe(404);
  expect((await mila.who.get(`${p}/members`)).status()).toBe(401);
  expect((await again.get(`${p}/members`)).status()).toBe(200);
  expect((await lead.put(`${p}/members/${mila.id}/disabled`)).status()).toBe(200);
  expect((await again.get(`${p}/members`)).status()).toBe(401);
  expect((await attempt(mila.email, 'another kettle', '198.51.100.31')).status()).toBe(401);
  expect((await lead.delete(`${p}/members/${mila.id}/disabled`)).status()).toBe(200);
  expect((await attempt(mila.email, 'another kettle', '198.51.100.32')).status()).toBe(200);
  // Who works for others too is not this lead's to touch.
  expect(keep('production', 'add', 'Far Shore', '--lead', mila.email)).toContain('led by Mila');
  for (const act of ['reset', 'account', 'disabled'] as const) {
    const method = { reset: 'POST', account: 'DELETE', disabled: 'PUT' }[act];
    expect((await lead.fetch(`${p}/members/${mila.id}/${act}`, { method })).status(), act).toBe(403);
  }
  expect(keep('member', 'erase', mila.email)).toContain('erased');
  expect(cluster.psql("SELECT count(*) FROM members WHERE name = 'Mila' OR email LIKE 'mila@%'")).toBe('0');
  // Hanne alone, her password forgotten.
  const told = keep('member', 'reset', 'hanne@studio.example');
  const password = /signs in with (\S+) now/.exec(told)?.[1] ?? '';
  expect((await lead.get(`${p}/members`)).status()).toBe(401);
  lead = await server.signIn('hanne@studio.example', password);
  expect((await lead.put('/api/v1/account/password', { data: { current: password, new: PASSWORD } })).status()).toBe(200);
});

test('of two who change one thing the second is shown the first’s, and nothing is done twice or by halves', async () => {
  const nina = await joined('Nina', 'artist');
  const brush = (await (await lead.post(`${p}/brushes`, { data: { name: 'both' } })).json()).id;
  const view = await (await lead.get(`${p}/brushes/${brush}`)).json();
  const drawn = (mm: number) => ({
    ...view.versions[0].brush,
    weight: [
      [0, mm],
      [1, mm],
    ],
  });
  // A draft is its member's own.
  await lead.put(`${p}/brushes/${brush}/draft`, { data: { brush: drawn(0.7), from_version: 1 } });
  expect((await (await nina.who.get(`${p}/brushes/${brush}`)).json()).draft).toBeNull();
  expect((await nina.who.post(`${p}/brushes/${brush}/versions`, { data: { brush: drawn(0.9), from_version: 1, says: 'hers' } })).status()).toBe(201);
  const mine = await (await lead.get(`${p}/brushes/${brush}`)).json();
  expect([mine.draft_from_version, mine.current_version, mine.draft.weight[0][1]]).toEqual([1, 2, 0.7]);
  const stale = await lead.post(`${p}/brushes/${brush}/versions`, { data: { brush: drawn(0.7), from_version: 1 } });
  expect([stale.status(), (await stale.json()).current.by]).toEqual([409, 'Nina']);
  // Tags, a trial page.
  const tag = (who: APIRequestContext, tags: string[], from_version: number) => who.put(`${p}/brushes/${brush}/tags`, { data: { tags, from_version } });
  expect((await tag(nina.who, ['hers'], 1)).status()).toBe(200);
  expect((await (await tag(lead, ['mine'], 1)).json()).current).toEqual(['hers']);
  const page = { width_px: 200, height_px: 100, px_per_mm: 6, strokes: [] };
  const made = await lead.post(`${p}/trials`, { data: { name: 'both', page } });
  const trial = (await made.json()).id;
  expect(made.headers().location).toBe(`${p}/trials/${trial}`);
  expect((await nina.who.put(`${p}/trials/${trial}`, { data: { page, from_revision: 1 } })).status()).toBe(200);
  expect((await (await lead.put(`${p}/trials/${trial}`, { data: { page, from_revision: 1 } })).json()).current.revision).toBe(2);
  // A library with a brush that cannot be kept is not half brought in, nor is the log told that it was.
  const library = JSON.parse((await (await lead.get(`${p}/library`)).body()).toString());
  const before = cluster.psql('SELECT count(*) FROM brushes') + cluster.psql('SELECT count(*) FROM audit');
  cluster.psql("ALTER TABLE brushes ADD CONSTRAINT no_third CHECK (name <> 'third')");
  const of = (name: string) => ({ ...library.brushes[0], brush: { ...library.brushes[0].brush, name } });
  const both = { ...library, brushes: [of('second'), of('third')], roll: [] };
  const refused = await lead.post(`${p}/library`, { data: { library: JSON.stringify(both), clashes: {}, with_roll: false } });
  expect([refused.status(), cluster.psql('SELECT count(*) FROM brushes') + cluster.psql('SELECT count(*) FROM audit')]).toEqual([500, before]);
  cluster.psql('ALTER TABLE brushes DROP CONSTRAINT no_third');
});

test('a production keeps within its share of the disk, and what nothing refers to for a day is swept away', async () => {
  const file = (px: number) => ({ multipart: { file: { name: 'r.png', mimeType: 'image/png', buffer: png(px, px, (x, y) => x === y) } } });
  const { sha256 } = await (await lead.post(`${p}/roughs`, file(40))).json();
  expect(keep('production', 'quota', 'Low Tide', '0.001')).toContain('0.001 GiB');
  cluster.psql("UPDATE productions SET quota_bytes = (SELECT sum(size) FROM images) WHERE name = 'Low Tide'");
  const full = await lead.post(`${p}/roughs`, file(41));
  expect([full.status(), (await full.json()).detail]).toEqual([507, expect.stringContaining('would be too much')]);
  // What is there already costs nothing more.
  expect((await lead.post(`${p}/roughs`, file(40))).status()).toBe(200);
  keep('production', 'quota', 'Low Tide', '1');
  const space = (await (await lead.get(`${p}/members`)).json()).space;
  expect(space).toMatchObject({ quota_bytes: 2 ** 30, pictures: 1 });
  cluster.psql("UPDATE production_images SET at = now() - interval '25 hours'");
  cluster.psql("UPDATE tower_sessions.session SET expiry_date = now() - interval '1 minute' WHERE id = (SELECT id FROM tower_sessions.session LIMIT 1)");
  await server.kill('SIGTERM');
  await server.start('--trusted-proxy', '127.0.0.1', '--metrics', '127.0.0.1:9481');
  await expect.poll(() => cluster.psql('SELECT count(*) FROM images')).toBe('0');
  expect(cluster.psql('SELECT count(*) FROM tower_sessions.session WHERE expiry_date < now()')).toBe('0');
  expect((await (await server.signIn('hanne@studio.example', PASSWORD)).get(`${p}/images/${sha256}`)).status()).toBe(404);
});

test('what is counted is shown to this machine as OpenMetrics; a backup is its owner’s alone and signs nobody in', async () => {
  const answer = await fetch('http://127.0.0.1:9481/metrics');
  const text = await answer.text();
  expect(answer.headers.get('content-type')).toContain('application/openmetrics-text');
  expect(text.trim().split('\n').pop()).toBe('# EOF');
  for (const name of ['eddymist_requests_total{method="POST",status="200"}', 'eddymist_request_duration_seconds_bucket', 'eddymist_queue_waiting 0'])
    expect(text).toContain(name);
  const env = { ...process.env, DATABASE_URL: cluster.url };
  expect(spawnSync(PROGRAM, ['serve', '--listen', '127.0.0.1:8799', '--metrics', '0.0.0.0:9482'], { env }).status).toBe(2);
  const file = scratch('trust.eddymist');
  execFileSync(PROGRAM, ['backup', file], { env });
  expect(statSync(file).mode & 0o777).toBe(0o600);
  const listed = execFileSync('pg_restore', ['--data-only', '--table=session', '-f', '-', file], { encoding: 'utf8' });
  expect(listed).not.toMatch(/^COPY/m);
  expect(spawnSync(PROGRAM, ['backup', file], { env }).status).toBe(2);
  expect(readFileSync(file).subarray(0, 5).toString()).toBe('PGDMP');
});

test('told to stop it ends its streams and lets what has begun come to its end; a newer schema is not touched', async () => {
  const who = await server.signIn('hanne@studio.example', PASSWORD);
  const role = { name: 'line', from: { colour: '#1e1e1e', tolerance: 12 }, weight_px: { target: 4, tolerance: 0.2 }, ends: 'any' };
  const guide = {
    format: 'eddymist/line-guide',
    version: 1,
    name: 'g',
    page: { width_px: 100, height_px: 100 },
    finish: 'smooth',
    roles: [role],
    must_mend: [],
  };
  const g = await (await who.post(`${p}/guides`, { data: guide })).json();
  const d = await (await who.post(`${p}/deliveries`, { data: { name: 'd', guide_id: g.id, pattern: '' } })).json();
  await who.post(`${p}/deliveries/${d.id}/stop`);
  const cookie = (await who.storageState()).cookies.map((c) => `${c.name}=${c.value}`).join('; ');
  const stream = await fetch(`${server.address}${p}/deliveries/${d.id}/progress`, { headers: { cookie } });
  expect(stream.headers.get('content-type')).toContain('text/event-stream');
  const read = stream.text();
  const ended = server.kill('SIGTERM');
  await Promise.race([ended, new Promise((_, no) => setTimeout(() => no(new Error('it does not stop')), 20_000))]);
  await read.catch(() => '');
  expect(server.process?.exitCode).toBe(0);
  cluster.psql("INSERT INTO _sqlx_migrations (version, description, success, checksum, execution_time) VALUES (9999, 'later', true, '', 0)");
  const env = { ...process.env, DATABASE_URL: cluster.url };
  for (const command of [['migrate'], ['serve', '--listen', '127.0.0.1:8799']]) {
    const refused = spawnSync(PROGRAM, command, { env, encoding: 'utf8' });
    expect([refused.status, refused.stderr]).toEqual([1, expect.stringContaining('newer than this program')]);
  }
});
