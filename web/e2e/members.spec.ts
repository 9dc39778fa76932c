// Members and what they are trusted with: inviting, leaving, changing part; accounts; the log; archiving and removal; two at once.
import { type APIRequestContext, expect, request, test } from '@playwright/test';
import { joined, png } from './files';
import { baseURL, PASSWORD, production, signIn } from './people';

async function asMember(email: string, password = PASSWORD): Promise<APIRequestContext> {
  const who = await request.newContext({ baseURL });
  expect((await who.post('/api/v1/session', { data: { email, password } })).ok()).toBe(true);
  return who;
}
const session = async (who: APIRequestContext) => (await who.get('/api/v1/session')).json();
test('a member is invited by a link, joins by it once, has their access changed, and leaves', async ({ page, browser }) => {
  const email = `nour-${Date.now()}@studio.example`;
  await signIn(page, 'Ilse Marrow');
  await page.locator('#member').click();
  await page.getByRole('link', { name: 'Members' }).click();
  await page.getByLabel('e-mail address').fill(email);
  await page.getByRole('button', { name: 'Make invitation link' }).click();
  const link = await page.getByLabel('the invitation’s link').inputValue();
  await expect(page.getByRole('row', { name: email })).toContainText('the link works until');
  const theirs = await (await browser.newContext({ baseURL })).newPage();
  await theirs.goto(link);
  await expect(theirs.getByText('Ilse Marrow invites you')).toBeVisible();
  await theirs.getByLabel('Your name').fill('Nour Hadley');
  await theirs.getByLabel(/A password/).fill('a quiet siding');
  await theirs.getByRole('button', { name: /Join Night Tram/ }).click();
  await expect(theirs.locator('#member')).toContainText('Nour Hadley · artist');
  // The link let in one person; opened again it says so.
  await theirs.goto(link);
  await expect(theirs.getByRole('alert')).toContainText('used, withdrawn, or is older');
  await page.reload();
  await page.getByLabel('access of Nour Hadley').selectOption('viewer');
  await expect(page.getByLabel('access of Nour Hadley')).toHaveValue('viewer');
  // A viewer's desk is empty, and they may leave; then they see nothing of the production.
  await theirs.goto('/');
  await expect(theirs.getByRole('heading', { name: 'Nothing waits' })).toBeVisible();
  await theirs.goto('/members');
  await theirs.getByRole('button', { name: 'Leave' }).click();
  await theirs.getByRole('button', { name: 'Leave this production' }).click();
  await expect(theirs.getByText('You are in no production yet')).toBeVisible();
  await page.goto('/log');
  for (const said of [`invited ${email} as artist`, 'joined Nour Hadley as artist', 'access changed Nour Hadley: artist to viewer', 'left Nour Hadley'])
    await expect(page.getByRole('row', { name: said }).first()).toBeVisible();
});

test('a member of no production, or of one, has nothing of another, and what a member did stays when they are taken out', async () => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const email = `kit-${Date.now()}@studio.example`;
  const kit = await joined(baseURL, lead, p, { name: 'Kit Osei', email, password: PASSWORD, part: 'lead' });
  const guide = (await (await kit.get(`${p}/guides`)).json())[0];
  const { id } = await (await kit.post(`${p}/deliveries`, { data: { name: 'by Kit', guide_id: guide.id, pattern: '' } })).json();
  const members = (await (await lead.get(`${p}/members`)).json()).members as { id: string; name: string; part: string }[];
  const own = members.find((m) => m.name === 'Kit Osei');
  // Two leads change the same part: the second is told what it is now.
  const change = (from: string, part: string) => lead.put(`${p}/members/${own?.id}`, { data: { from, part } });
  expect((await change('lead', 'artist')).status()).toBe(200);
  const stale = await change('lead', 'viewer');
  expect([stale.status(), (await stale.json()).detail]).toEqual([409, expect.stringContaining('they are artist now')]);
  // Taken out in the middle of their work: the next thing they ask is not there, and what they made is.
  expect((await lead.delete(`${p}/members/${own?.id}`)).status()).toBe(200);
  expect((await kit.post(`${p}/deliveries/${id}/drawings`, { multipart: {} })).status()).toBe(404);
  for (const path of ['pens', 'team', 'members', 'log', `deliveries/${id}`]) expect((await kit.get(`${p}/${path}`)).status(), path).toBe(404);
  expect((await session(kit)).productions).toEqual([]);
  expect((await lead.get(`${p}/deliveries/${id}`)).status()).toBe(200);
  const log = (await (await lead.get(`${p}/log`)).json()) as { by: string; action: string; subject: string }[];
  expect(log.some((r) => r.by === 'Kit Osei' && r.action === 'delivery made' && r.subject === 'by Kit')).toBe(true);
  await lead.put(`${p}/archive/deliveries/${id}`);
});

test('a production keeps one lead', async () => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const members = (await (await lead.get(`${p}/members`)).json()).members as { id: string; part: string; you: boolean; name: string }[];
  const others = members.filter((m) => m.part === 'lead' && !m.you);
  for (const m of others) await lead.put(`${p}/members/${m.id}`, { data: { from: 'lead', part: 'artist' } });
  const own = members.find((m) => m.you);
  for (const answer of [await lead.delete(`${p}/members/${own?.id}`), await lead.put(`${p}/members/${own?.id}`, { data: { from: 'lead', part: 'viewer' } })]) {
    expect([answer.status(), (await answer.json()).detail]).toEqual([409, expect.stringContaining('keeps one lead')]);
  }
  for (const m of others) await lead.put(`${p}/members/${m.id}`, { data: { from: 'artist', part: 'lead' } });
});

test('a password is changed by who knows it, other sign-ins end with it, and one can be ended from another', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const email = `remy-${Date.now()}@studio.example`;
  const first = await joined(baseURL, lead, p, { name: 'Remy Stowe', email, password: PASSWORD, part: 'artist' });
  const second = await asMember(email);
  const third = await asMember(email);
  const listed = await (await first.get('/api/v1/account/sign-ins')).json();
  expect(listed.length).toBe(3);
  const other = listed.find((s: { this: boolean }) => !s.this);
  expect((await first.delete(`/api/v1/account/sign-ins/${other.id}`)).status()).toBe(200);
  const ended = [await session(second), await session(third)].filter((s) => s.member === null);
  expect(ended.length).toBe(1);
  const change = (current: string, next: string) => first.put('/api/v1/account/password', { data: { current, new: next } });
  expect((await change('wrong', 'another password')).status()).toBe(422);
  expect((await change(PASSWORD, 'short')).status()).toBe(422);
  expect((await change(PASSWORD, 'the tunnel at noon')).status()).toBe(200);
  expect((await session(first)).member.email).toBe(email);
  for (const who of [second, third]) expect((await session(who)).member).toBeNull();
  expect((await (await request.newContext({ baseURL })).post('/api/v1/session', { data: { email, password: PASSWORD } })).status()).toBe(401);
  // On the page too.
  await page.goto('/');
  await page.getByLabel('E-mail address').fill(email);
  await page.getByLabel('Password').fill('the tunnel at noon');
  await page.locator('form').getByRole('button', { name: 'Sign in' }).click();
  await page.locator('#member').click();
  await page.getByRole('link', { name: 'Your account' }).click();
  await expect(page.getByText('this one')).toBeVisible();
  await page.getByRole('button', { name: 'End sign-in' }).click();
  await expect(page.getByRole('button', { name: 'End sign-in' })).toHaveCount(0);
  expect((await session(first)).member).toBeNull();
});

test('archiving is undone at once; a real removal is a lead’s, of what is archived, with the count of what goes', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const artist = await asMember('dov@nighttram.example');
  const p = await production(lead);
  const guide = { format: 'eddymist/line-guide', version: 1, name: `to go ${Date.now()}`, page: { width_px: 400, height_px: 300 } };
  const roles = [{ name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } }];
  const guide_id = (await (await lead.post(`${p}/guides`, { data: { ...guide, roles } })).json()).id;
  const { id } = await (await lead.post(`${p}/deliveries`, { data: { name: 'to go', guide_id, pattern: '' } })).json();
  const url = `${p}/deliveries/${id}`;
  const drawing = (w: number) => png(400, 300, (x, y) => x > 30 && x < 370 && y >= 150 && y < 150 + w);
  for (const w of [6, 9]) await lead.post(`${url}/drawings`, { multipart: { file: { name: `${w}.png`, mimeType: 'image/png', buffer: drawing(w) } } });
  await expect.poll(async () => (await (await lead.get(url)).json()).drawings.filter((d: { standing: string }) => d.standing === 'waiting').length).toBe(0);
  const drawings = (await (await lead.get(url)).json()).drawings as { id: string; sha256: string }[];
  await lead.post(`${url}/decisions`, { data: { drawings: [{ id: drawings[0]?.id, seen: 0 }], state: 'ready' } });
  await lead.post(`${p}/drawings/${drawings[0]?.id}/pins`, { data: { x: 10, y: 10, text: 'here' } });
  // A guide that holds a delivery stays; so does what is not archived.
  expect((await lead.put(`${p}/archive/guides/${guide_id}`)).status()).toBe(409);
  expect((await lead.delete(`${p}/removal/deliveries/${id}?count=5`)).status()).toBe(409);
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/checks/${id}`);
  await page.getByRole('button', { name: 'Archive' }).click();
  await expect(page.getByText('to go is archived.')).toBeVisible();
  await page.getByRole('button', { name: 'Restore' }).click();
  await expect(page.getByRole('button', { name: 'Archive' })).toBeVisible();
  await page.getByRole('button', { name: 'Archive' }).click();
  await page.getByRole('link', { name: 'To the archive' }).click();
  const row = page.getByRole('row', { name: /delivery to go archived/ });
  await row.getByRole('button', { name: 'Delete for good…' }).click();
  await expect(row).toContainText('1 delivery, 1 pins, 1 decisions, 2 drawings and takes');
  // Something comes in after the count was shown: it is not removed unseen.
  await lead.post(`${p}/drawings/${drawings[1]?.id}/pins`, { data: { x: 20, y: 10, text: 'and here' } });
  await row.getByRole('button', { name: 'Delete all for good 5' }).click();
  await expect(row.getByRole('alert')).toContainText('6 in all');
  expect((await artist.delete(`${p}/removal/deliveries/${id}?count=6`)).status()).toBe(403);
  await row.getByRole('button', { name: 'Cancel' }).click();
  await row.getByRole('button', { name: 'Delete for good…' }).click();
  await row.getByRole('button', { name: 'Delete all for good 6' }).click();
  await expect(page.getByRole('row', { name: /delivery to go archived/ })).toHaveCount(0);
  expect((await lead.get(url)).status()).toBe(404);
  // Its pictures are gone too: nothing else shows them.
  expect((await lead.get(`${p}/images/${drawings[0]?.sha256}`)).status()).toBe(404);
  expect((await lead.put(`${p}/archive/guides/${guide_id}`)).status()).toBe(200);
  expect((await lead.delete(`${p}/removal/guides/${guide_id}?count=2`)).status()).toBe(200);
});

test('a pen roll that another lead changed meanwhile is not written over', async () => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const seen = await (await lead.get(`${p}/roll`)).json();
  expect(seen.length).toBeGreaterThan(1);
  const put = (roll: unknown, from: unknown) => lead.put(`${p}/roll`, { data: { roll, seen: from } });
  const heavier = seen.map((r: { weight_factor: number }, i: number) => (i ? r : { ...r, weight_factor: 1.1 }));
  expect((await put(heavier, seen)).status()).toBe(200);
  const stale = await put(seen.slice(1), seen);
  const problem = await stale.json();
  expect([stale.status(), problem.current[0].weight_factor]).toEqual([409, 1.1]);
  expect((await put(seen, problem.current)).status()).toBe(200);
});

test('a lead renames the production, and everybody sees it', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  await page.goto('/members');
  const name = page.getByLabel('name of this production');
  await name.fill('Night Tram, second season');
  await page.getByRole('button', { name: 'Rename production' }).click();
  await expect(page.getByRole('banner').getByText('Night Tram, second season')).toBeVisible();
  expect((await page.request.put(`${base}/name`, { data: { name: '  ' } })).status()).toBe(422);
  await name.fill('Night Tram');
  await page.getByRole('button', { name: 'Rename production' }).click();
  await expect(page.getByRole('banner').getByText('Night Tram', { exact: true })).toBeVisible();
});

test('an archived production is looked at and not changed, until a lead restores it', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  await page.goto('/members');
  await page.getByLabel('name of the new production').fill('Day Bus, pilot');
  await expect(page.getByLabel('with copies of the line guides of Night Tram')).toBeChecked();
  await page.getByRole('button', { name: 'Create production' }).click();
  const choice = page.getByLabel('production', { exact: true });
  await choice.selectOption({ label: 'Day Bus, pilot' });
  await page.goto('/members');
  await page.getByRole('button', { name: 'Archive production…' }).click();
  await expect(page.getByText('Nothing in it can be changed until a lead restores it.')).toBeVisible();
  await page.getByRole('button', { name: 'Archive Day Bus, pilot' }).click();
  await expect(page.getByRole('status').getByText('Day Bus, pilot is archived')).toBeVisible();
  await expect(page.locator('#member')).toContainText('archived');
  await expect(choice.locator('option').last()).toHaveText('Day Bus, pilot (archived)');
  // Nothing on the pages offers a change, and the door refuses one.
  await expect(page.getByRole('button', { name: 'Rename production' })).toHaveCount(0);
  const p = `/api/v1/productions/${await choice.inputValue()}`;
  const guides = async (of: string) => (await (await page.request.get(`${of}/guides`)).json()).map((g: { guide: object }) => g.guide);
  expect(await guides(p)).toEqual(await guides(await production(page.request)));
  // Of a production that one is no member of nothing is copied.
  const strange = await page.request.post('/api/v1/productions', { data: { name: 'none', guides_of: '00000000-0000-4000-8000-000000000000' } });
  expect(strange.status()).toBe(404);
  for (const [path, data] of [
    ['guides', { format: 'eddymist/line-guide' }],
    ['brushes', { name: 'late' }],
    ['invitations', { email: 'late@studio.example', part: 'viewer' }],
  ] as const) {
    const answer = await page.request.post(`${p}/${path}`, { data });
    expect([answer.status(), (await answer.json()).detail], path).toEqual([409, expect.stringContaining('this production is archived')]);
  }
  expect((await page.request.get(`${p}/members`)).status()).toBe(200);
  expect((await page.request.put(`${p}/archived`)).status()).toBe(409);
  await page.getByRole('button', { name: 'Restore production' }).click();
  await expect(page.getByRole('button', { name: 'Rename production' })).toBeVisible();
  expect((await page.request.post(`${p}/brushes`, { data: { name: 'in time' } })).status()).toBe(201);
  // Out of the other tests' way.
  await page.request.put(`${p}/archived`);
  await choice.selectOption({ label: 'Night Tram' });
});

test('two members of one name are told apart, and a handle says who an artist is before any manifest has it', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const people: APIRequestContext[] = [];
  for (const email of ['kit.one@studio.example', 'kit.two@studio.example'])
    people.push(await joined(baseURL, lead, p, { name: 'Kit Arrow', email, password: PASSWORD, part: 'artist' }));
  await signIn(page, 'Ilse Marrow');
  await page.goto('/members');
  await page.getByLabel('name or handle in manifests').fill('kit-2');
  await page.getByLabel('member of this handle').selectOption({ label: 'Kit Arrow (kit.two@studio.example)' });
  await page.getByRole('button', { name: 'Link handle' }).click();
  await expect(page.getByLabel('member for kit-2').locator('option:checked')).toHaveText('Kit Arrow (kit.two@studio.example)');
  await page.getByLabel('name or handle in manifests').fill('KIT-2');
  await expect(page.getByRole('button', { name: 'Link handle' })).toBeDisabled();
  // What is returned of kit-2 is on that desk, and on no other of the name.
  const guide_id = (await (await lead.get(`${p}/guides`)).json())[0].id;
  const made = await (await lead.post(`${p}/deliveries`, { data: { name: 'of two Kits', guide_id, pattern: '{shot}_{artist}_{drawing}' } })).json();
  const url = `${p}/deliveries/${made.id}`;
  const line = png(200, 120, (x, y) => Math.abs(y - 60 - x / 9) < 3);
  await lead.post(`${url}/drawings`, { multipart: { file: { name: '88_Kit-2_1.png', mimeType: 'image/png', buffer: line } } });
  await expect.poll(async () => (await (await lead.get(url)).json()).drawings[0].standing).not.toBe('waiting');
  const drawing = (await (await lead.get(url)).json()).drawings[0];
  await lead.post(`${url}/decisions`, { data: { drawings: [{ id: drawing.id, seen: 0 }], state: 'return', note: 'a little thinner' } });
  const desk = async (who: APIRequestContext) => JSON.stringify(await (await who.get(`${p}/desk`)).json());
  expect(await desk(people[1] as APIRequestContext)).toContain('88_Kit-2_1.png');
  expect(await desk(people[0] as APIRequestContext)).not.toContain('88_Kit-2_1.png');
  // The log shows the drawing that was returned.
  await page.goto('/log');
  const row = page.getByRole('row', { name: /returned 1 of of two Kits/ });
  await expect(row.getByRole('img')).toBeVisible();
  await row.getByRole('link').click();
  await expect(page.getByLabel('drawing 88_Kit-2_1.png with its measured lines')).toBeVisible();
  await lead.put(`${p}/archive/deliveries/${made.id}`);
  await lead.put(`${p}/artists`, { data: { artist: 'kit-2', member: null } });
});
