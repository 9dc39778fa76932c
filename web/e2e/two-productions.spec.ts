// Two real productions: every route with the other one's real identifiers, in its path and in its body. Nothing of the one is seen or
// changed from the other. It makes a production of its own beside the demo's.
import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { asMember, production } from './people';

test.skip(!process.env.DATABASE_URL, 'needs the database');
const PREFIX = '/api/v1/productions/{production}';
const KINDS = ['pens', 'profiles', 'brushes', 'guides', 'deliveries', 'trials'] as const;
type Row = { id: string; name?: string; sha256?: string };

const psql = (sql: string) => execFileSync('psql', ['-qtA', '-v', 'ON_ERROR_STOP=1', process.env.DATABASE_URL ?? '', '-c', sql], { encoding: 'utf8' }).trim();

/** A production of somebody who is in no other, made where the interface has no way to make a second one. */
async function another(): Promise<{ lead: APIRequestContext; p: string }> {
  const [member, made] = [randomUUID(), randomUUID()];
  const email = `${member}@lowtide.example`;
  psql(
    `INSERT INTO members (id, name, email, password_hash) SELECT '${member}', 'Hanne Vogt', '${email}', password_hash FROM members WHERE email = 'ilse@nighttram.example'`,
  );
  psql(`INSERT INTO productions (id, name) VALUES ('${made}', 'Low Tide')`);
  psql(`INSERT INTO memberships (production_id, member_id, part) VALUES ('${made}', '${member}', 'lead')`);
  return { lead: await asMember(email), p: `/api/v1/productions/${made}` };
}

/** Real identifiers of a production by the place they have in a path; lists where there are several kinds. */
async function idsOf(lead: APIRequestContext, p: string) {
  const list = async (what: string): Promise<Row[]> => (await lead.get(`${p}/${what}`)).json();
  const [pens, profiles, brushes, guides, deliveries] = await Promise.all(['pens', 'profiles', 'brushes', 'guides', 'deliveries'].map(list));
  const first = (rows: Row[] | undefined) => rows?.[0]?.id ?? '';
  const delivery = await (await lead.get(`${p}/deliveries/${first(deliveries)}`)).json();
  const drawing = delivery.drawings[0] as Row;
  const page = { width_px: 200, height_px: 100, px_per_mm: 6, rough: drawing.sha256, strokes: [] };
  const trial = await (await lead.post(`${p}/trials`, { data: { name: 'of the first', page } })).json();
  const pin = await (await lead.post(`${p}/drawings/${drawing.id}/pins`, { data: { x: 10, y: 10, text: 'here' } })).json();
  const finding = (await (await lead.get(`${p}/drawings/${drawing.id}`)).json()).check.findings[0];
  const dismissal = finding && (await (await lead.post(`${p}/drawings/${drawing.id}/dismissals`, { data: { finding, why: 'meant' } })).json());
  const invited = await (await lead.post(`${p}/invitations`, { data: { email: `${randomUUID()}@x.example`, part: 'viewer' } })).json();
  const members = (await (await lead.get(`${p}/members`)).json()).members as Row[];
  const byKind = {
    pens: first(pens),
    profiles: first(profiles),
    brushes: first(brushes),
    guides: first(guides),
    deliveries: first(deliveries),
    trials: trial.id,
  };
  return {
    byKind,
    drawing,
    pin: pin.id as string,
    dismissal: (dismissal?.id ?? randomUUID()) as string,
    finding,
    invitation: invited.id as string,
    member: first(members),
  };
}
type Ids = Awaited<ReturnType<typeof idsOf>>;

/** Every way in which a route's path can be filled with these identifiers. */
function filled(path: string, p: string, ids: Ids): string[] {
  const at = path.replace(PREFIX, p).replace('{x}/{y}/{normal}', '1/2/3');
  if (at.includes('{kind}/{id}')) return KINDS.map((k) => at.replace('{kind}/{id}', `${k}/${ids.byKind[k]}`));
  const room = path.slice(PREFIX.length + 1).split('/')[0] ?? '';
  const own = (ids.byKind as Record<string, string>)[room];
  const id = room === 'drawings' ? ids.drawing.id : room === 'invitations' ? ids.invitation : (own ?? randomUUID());
  const out = at
    .replace('{member}', ids.member)
    .replace('{dismissal}', ids.dismissal)
    .replace('{pin}', ids.pin)
    .replace('{pen}', ids.byKind.pens)
    .replace('{other}', ids.byKind.pens)
    .replace('{onto}', ids.drawing.id)
    .replace('{sha}', ids.drawing.sha256 ?? '')
    .replace('{brushes}', `${ids.byKind.brushes}@1`)
    .replace('{version}', '1')
    .replace('{id}', id);
  const kinds: Record<string, string> = { 'sampler-sheet': 'pdf', trials: 'svg', 'proof-sheet': 'svg', drawings: 'svg', team: 'csv', paths: 'svg' };
  return [
    out
      .replace('{kind}', kinds[room] ?? 'svg')
      .replace('{paper}', 'a4')
      .replace('{what}', room === 'pens' ? 'card.json' : 'findings.csv')
      .replace('{finding}', '0')
      .replace('{name}', 'dov')
      .replace('{role}', 'contour')
      .replace(/\{\w+\}/g, randomUUID()),
  ];
}

/** What a production holds, to be compared before and after. */
async function holds(lead: APIRequestContext, p: string) {
  const out: Record<string, unknown> = {};
  for (const what of [...KINDS, 'roll', 'members', 'trims']) out[what] = await (await lead.get(`${p}/${what}`)).json();
  return JSON.stringify(out, (k, v) => (k === 'used_at' || k === 'seen_at' ? undefined : v));
}

test('with the other production’s real identifiers in every path nothing is seen and nothing is changed', async () => {
  const first = await asMember('ilse@nighttram.example');
  const [a, b] = [await production(first), await another()];
  const ids = await idsOf(first, a);
  const before = await holds(first, a);
  const described = await (await first.get('/api/openapi.json')).json();
  const routes = Object.entries(described.paths as Record<string, object>).flatMap(([path, verbs]) => Object.keys(verbs).map((verb) => ({ path, verb })));
  let asked = 0;
  for (const { path, verb } of routes.filter((r) => r.path.startsWith(PREFIX))) {
    const method = verb.toUpperCase();
    const data = verb === 'get' ? undefined : {};
    for (const url of filled(path, a, ids)) {
      const answer = await b.lead.fetch(url, { method, data });
      expect.soft(answer.status(), `${method} ${url}`).toBe(404);
      asked++;
    }
    // One's own production, the other's things in it.
    const foreign = /\{(id|sha|pen|other|member|brushes)\}/.test(path);
    for (const url of filled(path, b.p, ids)) {
      const answer = await b.lead.fetch(url, { method, data });
      const text = await answer.text();
      if (foreign) expect.soft(answer.ok(), `${method} ${url}: ${answer.status()} ${text.slice(0, 200)}`).toBe(false);
      for (const [kind, id] of Object.entries(ids.byKind)) if (!url.includes(id)) expect(text, `${method} ${url} tells of ${kind}`).not.toContain(id);
      asked++;
    }
  }
  expect(asked).toBeGreaterThan(180);
  expect(await holds(first, a)).toBe(before);
});

test('with the other production’s real identifiers in every body nothing is taken in', async () => {
  const first = await asMember('ilse@nighttram.example');
  const [a, b] = [await production(first), await another()];
  const { byKind, drawing, finding } = await idsOf(first, a);
  const before = await holds(first, a);
  const own = await (await b.lead.post(`${b.p}/brushes`, { data: { name: 'own' } })).json();
  const brush = (await (await b.lead.get(`${b.p}/brushes/${own.id}`)).json()).versions[0].brush;
  const guide = (await (await first.get(`${a}/guides`)).json())[0].guide;
  const made = await (await b.lead.post(`${b.p}/guides`, { data: guide })).json();
  const delivery = await (await b.lead.post(`${b.p}/deliveries`, { data: { name: 'own', guide_id: made.id, pattern: '' } })).json();
  const page = { width_px: 200, height_px: 100, px_per_mm: 6, strokes: [] };
  const stroke = { samples: [0, 1, 1, 0.5, null, null, 8, 9, 9, 0.5, null, null], brush_id: byKind.brushes, version: 1, role: 'contour', colour: '#1b1e24' };
  const note = { paper: '', ink: '', wear: '', use: '' };
  const tries: [string, string, unknown][] = [
    ['POST', 'brushes', { name: 'x', pen_id: byKind.pens }],
    ['POST', 'brushes', { name: 'x', profile_id: byKind.profiles }],
    ['POST', 'brushes', { name: 'x', copy_of: byKind.brushes, copy_version: 1 }],
    ['POST', 'deliveries', { name: 'x', guide_id: byKind.guides, pattern: '' }],
    ['POST', 'pens', { name: 'x', scan_sha256: drawing.sha256, resolution_dpi: 600, efforts: [], note }],
    ['POST', 'pens/sheet', { name: 'x', scan_sha256: drawing.sha256, resolution_dpi: 600, note }],
    ['POST', 'trials', { name: 'x', page: { ...page, rough: drawing.sha256 } }],
    ['POST', 'trials', { name: 'x', page: { ...page, neighbours: [drawing.sha256] } }],
    ['POST', 'trials', { name: 'x', page: { ...page, drawing: drawing.id } }],
    ['POST', 'trials', { name: 'x', page: { ...page, strokes: [stroke] } }],
    ['PUT', 'roll', { roll: [{ role: 'contour', brush_id: byKind.brushes, version: 1, colour: '#1b1e24', weight_factor: 1 }], seen: [] }],
    ['POST', `deliveries/${delivery.id}/decisions`, { drawings: [{ id: drawing.id, number: 0 }], state: 'ready' }],
    ['POST', `deliveries/${delivery.id}/aside`, { drawings: [drawing.id], why: 'removed' }],
    ['POST', `deliveries/${delivery.id}/dismissals`, { findings: [{ drawing: drawing.id, finding }], why: 'x' }],
    ['POST', 'trims', { of: { guide: byKind.guides }, artist: 'dov', role: 'contour', onto: 'brush' }],
    ['POST', `brushes/${own.id}/bench`, { brush, under: 99 }],
  ];
  for (const [method, path, data] of tries) {
    const answer = await b.lead.fetch(`${b.p}/${path}`, { method, data: data as object });
    const text = await answer.text();
    // Asked for an earlier version that is not there, a bench lays nothing under: it is the one that may answer.
    if (path.endsWith('/bench')) continue;
    expect.soft(answer.ok(), `${method} ${path} ${JSON.stringify(data).slice(0, 120)}: ${answer.status()} ${text.slice(0, 160)}`).toBe(false);
    expect(text).not.toContain('Night Tram');
  }
  const left = JSON.parse(await holds(b.lead, b.p));
  expect([left.pens, left.trials, left.roll, left.trims].map((l) => l.length)).toEqual([0, 0, 0, 0]);
  expect([left.brushes.length, left.deliveries.length]).toEqual([1, 1]);
  expect(await holds(first, a)).toBe(before);
  expect((await b.lead.get(`${b.p}/team?guide=${byKind.guides}`)).status()).toBe(404);
  expect((await b.lead.get(`${b.p}/team?delivery=${byKind.deliveries}`)).status()).toBe(404);
});
