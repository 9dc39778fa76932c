// Drawings decided on, returned, and coming again: by keys and pen, by two leads at once, with a worker that is killed, and from a
// watched folder. It makes guides and deliveries of its own, so it comes after those that look at the demo.
import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { joined, png, zip } from './files';
import { asMember, baseURL, PASSWORD, production, signIn } from './people';

const [W, H] = [960, 540];

/** Level lines of these widths, one under the other, from `left` on. */
const drawing = (widths: number[], left = 60) => png(W, H, (x, y) => widths.some((w, k) => x >= left && x < W - 60 && y >= 60 + 80 * k && y < 60 + 80 * k + w));

const GUIDE = {
  format: 'eddymist/line-guide',
  version: 1,
  name: 'takes',
  page: { width_px: W, height_px: H, px_per_mm: 6 },
  roles: [{ name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } }],
  must_mend: ['heavy', 'thin'],
  off: ['hard-edge'],
};
let guides = 0;

/** A delivery with these files, weighed. */
async function delivered(lead: APIRequestContext, p: string, name: string, files: Record<string, Buffer>, guide = GUIDE, csv: string | null = null) {
  guides++;
  const guide_id = (await (await lead.post(`${p}/guides`, { data: { ...guide, name: `${guide.name} ${guides}` } })).json()).id;
  const { id } = await (await lead.post(`${p}/deliveries`, { data: { name, guide_id, pattern: '{shot}_{artist}_{drawing}', csv } })).json();
  const url = `${p}/deliveries/${id}`;
  await send(lead, url, files);
  return { id, guide_id, url };
}

async function send(lead: APIRequestContext, url: string, files: Record<string, Buffer>) {
  for (const [file, buffer] of Object.entries(files)) {
    const sent = await lead.post(`${url}/drawings`, { multipart: { file: { name: file, mimeType: 'image/png', buffer } } });
    expect(sent.status()).toBe(200);
  }
}

type Row = { id: string; file: string; standing: string; decision: { number: number; state: string } | null; again: boolean };
/** The drawings once all are measured, by file. */
async function settled(who: APIRequestContext, url: string) {
  let view = await (await who.get(url)).json();
  await expect
    .poll(
      async () => {
        view = await (await who.get(url)).json();
        return view.drawings.every((d: Row) => d.standing !== 'waiting') && view.sequence !== null;
      },
      { timeout: 60_000 },
    )
    .toBe(true);
  return { view, rows: Object.fromEntries(view.drawings.map((d: Row) => [d.file, d])) as Record<string, Row> };
}

test('a lead goes through a delivery by keys: ready, returned with a drawn note, meant, pinned, and all of it taken back', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const { url, id } = await delivered(lead, p, 'by keys', {
    '31_dov_1.png': drawing([6, 6]),
    '31_dov_2.png': drawing([9, 6]),
    '31_dov_3.png': drawing([6, 9]),
    '31_dov_4.png': drawing([6, 6, 6]),
  });
  await settled(lead, url);
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/checks/${id}`);
  await expect(page.getByText('2 drawings need fixes')).toBeVisible();
  const chosen = page.locator('[role=option][aria-selected=true]');
  await expect(chosen).toHaveAttribute('aria-label', /^drawing 2 .*needs fixes/);
  // Returned with a note that is typed and drawn with the pen.
  await page.keyboard.press('2');
  await page.getByLabel('note to the artist').fill('the upper line is too heavy');
  const picture = page.getByLabel(/with its measured lines/);
  const box = await picture.boundingBox();
  if (!box) throw new Error('no picture');
  const pen = await page.context().newCDPSession(page);
  const to = (type: string, x: number, y: number) =>
    pen.send('Input.dispatchMouseEvent', {
      type: type as 'mousePressed',
      x: box.x + (x / W) * box.width,
      y: box.y + (y / H) * box.height,
      button: 'left',
      buttons: 1,
      clickCount: 1,
      pointerType: 'pen',
      force: 0.5,
    });
  await to('mousePressed', 300, 40);
  for (let i = 1; i <= 12; i++) await to('mouseMoved', 300 + 10 * i, 40 + (i % 2) * 30);
  await to('mouseReleased', 420, 40);
  await expect(page.getByRole('button', { name: 'Undo stroke (1)' })).toBeEnabled();
  // A reload loses nothing of the note.
  await page.reload();
  await expect(page.getByLabel('note to the artist')).toHaveValue('the upper line is too heavy');
  await expect(page.getByRole('button', { name: 'Undo stroke (1)' })).toBeEnabled();
  await page.getByRole('button', { name: 'Return drawing' }).click();
  await expect(page.getByText('1 drawing returned')).toBeVisible();
  await expect(page.getByText('“the upper line is too heavy”')).toBeVisible();
  await expect(chosen).toHaveAttribute('aria-label', /returned$/);
  // The next that goes back: its finding is meant, and it may go on.
  await page.keyboard.press('ArrowRight');
  await expect(chosen).toHaveAttribute('aria-label', /^drawing 3 .*needs fixes/);
  await expect(page.locator('.finding', { hasText: 'heavy' })).toBeVisible();
  await page.keyboard.press('n');
  await page.keyboard.press('3');
  await page.getByLabel('why it is intended').fill('a shadow');
  await page.getByRole('button', { name: 'Mark as intended' }).click();
  await expect(page.getByText('intended: a shadow (Ilse Marrow)')).toBeVisible();
  await expect(chosen).toHaveAttribute('aria-label', /^drawing 3 .*passes, not decided/);
  // Something of one's own is pinned where it is clicked.
  await page.getByRole('button', { name: 'pin', exact: true }).click();
  await picture.click({ position: { x: 0.8 * box.width, y: 0.8 * box.height } });
  await page.getByLabel('what is wrong there').fill('the button is missing');
  await page.getByRole('button', { name: 'Add pin' }).click();
  await expect(page.getByText('pinned by Ilse Marrow')).toBeVisible();
  // All that are ready at once, and back again.
  await page.getByRole('button', { name: 'Mark 3 as ready' }).click();
  await expect(page.getByText('3 drawings marked as ready')).toBeVisible();
  await expect(page.getByText('All decided: 1 returned')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(page.getByRole('button', { name: 'Mark 3 as ready' })).toBeVisible();
  // Pressed twice, it is decided once.
  await page.keyboard.press('1');
  await page.keyboard.press('1');
  await expect(page.getByText('1 drawing marked as ready')).toBeVisible();
  await page.keyboard.press('1');
  const third = new URL(page.url()).searchParams.get('drawing');
  const decided = (await (await lead.get(`${p}/drawings/${third}`)).json()).decisions.map((d: { state: string }) => d.state);
  expect(decided).toEqual(['ready', 'open', 'ready']);
  await expect(page.getByRole('alert')).toHaveCount(0);
  // What was marked as intended and pinned goes out with the findings, and can be taken back.
  const csv = await (await lead.get(`${url}/out/findings.csv`)).text();
  expect(csv).toMatch(/31_dov_3\.png,dov,31,3,ready,heavy,line,.*Ilse Marrow: a shadow/);
  expect(csv).toMatch(/pinned,.*the button is missing,Ilse Marrow/);
  await page.getByRole('button', { name: 'Remove pin' }).last().click();
  await expect(page.getByText('pinned by Ilse Marrow')).toHaveCount(0);
  await page.getByRole('button', { name: 'Remove intended mark' }).click();
  await expect(page.getByText('must fix').first()).toBeVisible();
});

test('a returned drawing reaches its artist with note and pins, goes to the trial page, comes again, and is held against its earlier take', async ({
  page,
}) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const { url, id } = await delivered(lead, p, 'shot 32', { '32_dov_1.png': drawing([9, 6, 9]), '32_dov_2.png': drawing([6, 6]) });
  const { rows } = await settled(lead, url);
  const one = rows['32_dov_1.png'] as Row;
  const view = await (await lead.get(`${p}/drawings/${one.id}`)).json();
  const lower = view.check.findings.find((f: { kind: string; y: number }) => f.kind === 'heavy' && f.y > 200);
  const dismissed = await lead.post(`${p}/drawings/${one.id}/dismissals`, { data: { finding: lower, why: 'the shadow side' } });
  expect(dismissed.status()).toBe(201);
  await lead.post(`${p}/drawings/${one.id}/pins`, { data: { x: 480, y: 300, text: 'no lace here' } });
  const back = {
    drawings: [{ id: one.id, seen: 0 }],
    state: 'return',
    note: 'the upper line, please',
    strokes: [
      [
        [100, 50],
        [200, 90],
      ],
    ],
  };
  expect((await lead.post(`${url}/decisions`, { data: back })).status()).toBe(200);

  await signIn(page, 'Dov Tarrant');
  await expect(page.getByText('1 drawing of shot 32 returned to you')).toBeVisible();
  await page.locator('.lanes > div', { hasText: 'shot 32 returned to you' }).getByRole('link', { name: 'See what to fix' }).click();
  await expect(page.getByText('“the upper line, please”')).toBeVisible();
  await expect(page.getByText('no lace here', { exact: true })).toBeVisible();
  // An artist looks and does not decide.
  await expect(page.getByRole('button', { name: 'Mark as ready', exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Ink again on a trial page' }).click();
  await expect(page).toHaveURL(/\/brushes\/trials\//);
  const came = page.locator('.card-plain', { hasText: 'Returned' });
  await expect(came).toContainText('Ilse Marrow: “the upper line, please”');
  await expect(came).toContainText('no lace here');

  // It comes again in another delivery: the upper line is mended, the lower one is the same and stays meant, a third is new.
  const second = await delivered(lead, p, 'shot 32 again', { '32_dov_1.png': drawing([6, 6, 9, 3]) });
  const again = (await settled(lead, second.url)).rows['32_dov_1.png'] as Row;
  expect(again.again).toBe(true);
  const now = await (await lead.get(`${p}/drawings/${again.id}`)).json();
  const kinds = (at: number[], of: { kind: string; y: number }[]) => at.map((i) => `${of[i]?.kind} ${Math.floor(((of[i]?.y ?? 0) - 60) / 80)}`);
  expect(kinds(now.earlier.compared.mended, now.earlier.findings)).toContain('heavy 0');
  expect(kinds(now.earlier.compared.new, now.check.findings)).toContain('thin 3');
  const same = now.check.findings.find((f: { kind: string }) => f.kind === 'heavy');
  expect(same.dismissed).toEqual({ by: 'Ilse Marrow', why: 'the shadow side' });
  expect(now.dismissals[0].carried).toBe(true);
  // The artist has nothing more to mend: it came again.
  await page.goto('/');
  await expect(page.getByRole('heading').first()).toBeVisible();
  await expect(page.getByText('of shot 32 returned')).toHaveCount(0);

  await page.locator('#member').click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/checks/${second.id}`);
  await expect(page.getByText(/Since the previous take: \d+ fixed · \d+ still there · \d+ new/)).toBeVisible();
  await page.getByRole('button', { name: 'wipe with the previous take' }).click();
  const share = page.getByLabel('share of the previous take');
  await share.focus();
  await page.keyboard.press('End');
  await expect(page.locator('#wiped rect')).toHaveAttribute('width', String(W));
  await page.goto(`/checks/${id}?drawing=${one.id}`);
  await expect(page.getByText('Its next take is here.')).toBeVisible();
});

test('of two leads who decide at once the second is told what the first did, and nothing is half done', async () => {
  const ilse = await asMember('ilse@nighttram.example');
  const p = await production(ilse);
  const marta = await joined(baseURL, ilse, p, { name: 'Marta Ruhl', email: 'marta@nighttram.example', password: PASSWORD, part: 'lead' });
  const { url } = await delivered(ilse, p, 'two leads', { '33_pia_1.png': drawing([6]), '33_pia_2.png': drawing([6, 6]), '33_pia_3.png': drawing([6, 6, 6]) });
  const { view } = await settled(ilse, url);
  const all = view.drawings.map((d: Row) => ({ id: d.id, seen: 0 }));
  const decide = (who: APIRequestContext, drawings: unknown[], state: string, note = '') => who.post(`${url}/decisions`, { data: { drawings, state, note } });
  expect((await decide(ilse, [all[1]], 'return', 'look at the cap')).status()).toBe(200);
  const second = await decide(marta, all, 'ready');
  expect(second.status()).toBe(409);
  const problem = await second.json();
  expect(problem.detail).toMatch(/33_pia_2\.png was decided on meanwhile: Ilse Marrow says return, “look at the cap”\. Nothing was changed/);
  expect(problem.current).toHaveLength(1);
  const standing = async () => (await (await ilse.get(url)).json()).drawings.map((d: Row) => d.standing);
  expect(await standing()).toEqual(['may-go-on', 'returned', 'may-go-on']);
  // Both at the very same moment: one of the two holds, whichever it is.
  const both = await Promise.all([decide(ilse, [all[0]], 'ready'), decide(marta, [all[0]], 'return', 'no')]);
  expect(both.map((b) => b.status()).sort()).toEqual([200, 409]);
  // Having seen it, the second may still decide otherwise.
  expect((await decide(marta, [{ id: all[1].id, seen: 1 }], 'ready')).status()).toBe(200);
  expect((await standing())[1]).toBe('handed-on');
  // Who may not, may not; what is not there is refused.
  const dov = await asMember('dov@nighttram.example');
  expect((await decide(dov, [all[2]], 'ready')).status()).toBe(403);
  expect((await decide(ilse, [], 'ready')).status()).toBe(422);
  expect((await decide(ilse, [{ id: p.split('/').pop(), seen: 0 }], 'ready')).status()).toBe(409);
  expect((await decide(ilse, [all[2]], 'return', 'x'.repeat(5000))).status()).toBe(422);
});

test('a delivery stays on its guide until it is checked again; a check is stopped and goes on; what was meant stays meant', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const { url, id, guide_id } = await delivered(lead, p, 'another guide', { '34_pia_1.png': drawing([6, 9]), '34_pia_2.png': drawing([6.0, 6]) });
  const first = (await settled(lead, url)).rows['34_pia_1.png'] as Row;
  const heavy = (await (await lead.get(`${p}/drawings/${first.id}`)).json()).check.findings.find((f: { kind: string }) => f.kind === 'heavy');
  await lead.post(`${p}/drawings/${first.id}/dismissals`, { data: { finding: heavy, why: 'meant so' } });
  // Tighter: 6 px is too thin now. Nothing moves until it is checked again.
  const tight = { ...GUIDE, roles: [{ name: 'line', from: { rest: true }, weight_px: { target: 7, tolerance: 0.05 } }] };
  expect((await lead.post(`${p}/guides/${guide_id}/versions`, { data: { guide: tight, from_version: 1 } })).status()).toBe(201);
  const before = await (await lead.get(url)).json();
  expect([before.guide_version, before.current_guide_version, before.drawings[0].standing]).toEqual([1, 2, 'may-go-on']);
  const versions = await (await lead.get(`${p}/guides/${guide_id}/versions`)).json();
  expect(versions.map((v: { version: number }) => v.version)).toEqual([2, 1]);
  expect((await lead.post(`${url}/stop`)).status()).toBe(200);
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/checks/${id}`);
  const begun = page.waitForResponse((r) => r.url().endsWith('/check'));
  await page.getByRole('button', { name: 'Check again with version 2' }).click();
  await begun;
  const { view, rows } = await settled(lead, url);
  expect(view.guide_version).toBe(2);
  expect(rows['34_pia_2.png']?.standing).toBe('goes-back');
  const again = await (await lead.get(`${p}/drawings/${first.id}`)).json();
  expect(again.check.findings.find((f: { kind: string }) => f.kind === 'heavy').dismissed.why).toBe('meant so');
  // Stopped, drawings that come wait; let go on, they are measured.
  await lead.post(`${url}/stop`);
  await send(lead, url, { '34_pia_3.png': drawing([7, 7]) });
  await page.reload();
  await expect(page.getByText('Stopped: 1 drawing waits')).toBeVisible();
  await page.getByRole('button', { name: 'Resume check' }).click();
  expect((await settled(lead, url)).rows['34_pia_3.png']?.standing).toBe('may-go-on');
});

test('what a manifest says, and what it leaves out, is known by CSV and by hand', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const files = { 'a.png': drawing([6]), 'b.png': drawing([6, 6]), 'c.png': drawing([6, 6, 6]), 'd.png': drawing([6]) };
  const csv = 'file,shot,drawing,artist,exposure\na.png,35,1,pia,2\nb.png,35,2,pia,2\nc.png,35,4,,3\n';
  const { url, id } = await delivered(lead, p, 'with a manifest', files, GUIDE, csv);
  const { view } = await settled(lead, url);
  expect(view.missing.some((m: string) => /^artist is not known of 2 of 4/.test(m))).toBe(true);
  expect(view.missing.some((m: string) => /^drawing 3 of shot 35 is not there/.test(m))).toBe(true);
  expect(view.missing.some((m: string) => /(a\.png and d|d\.png and a)\.png are the same picture/.test(m))).toBe(true);
  // The same file with the same content is noticed and not added.
  const twice = await lead.post(`${url}/drawings`, { multipart: { file: { name: 'a.png', mimeType: 'image/png', buffer: files['a.png'] } } });
  expect((await twice.json())[0]).toMatchObject({ file: 'a.png', there: true, take: false });
  const refused = await lead.put(`${url}/manifest`, { data: { pattern: '', csv: 'file,colour\na.png,red\n', from_version: 1 } });
  expect([refused.status(), (await refused.json()).detail]).toEqual([422, expect.stringMatching(/“colour” is not known/)]);
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/checks/${id}`);
  await page.getByRole('button', { name: 'Names and manifest' }).click();
  await page.getByLabel('artist of d.png').fill('dov');
  await page.getByLabel('drawing of d.png').fill('3');
  await page.getByLabel('shot of d.png').fill('35');
  await page.getByRole('button', { name: 'Save names' }).click();
  await expect(page.getByRole('option', { name: /^drawing 3 by dov/ })).toBeAttached();
  const after = await (await lead.get(url)).json();
  expect(after.drawings.map((d: { manifest: { drawing: string } }) => d.manifest.drawing)).toEqual(['1', '2', '3', '4']);
  expect(after.missing.some((m: string) => /drawing 3/.test(m))).toBe(false);
});

test('lines are looked at under the loupe, along their length and played back; findings and overlays are taken out', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const guide = { ...GUIDE, print: { reduction: 0.5, ink_gain_mm: 0, thinnest_mm: 0.45, closes_mm: 0 } } as typeof GUIDE;
  const { url, id } = await delivered(lead, p, 'to look at', { '36_pia_1.png': drawing([6, 9, 4]), '36_pia_2.png': drawing([6, 9]) }, guide);
  const { rows } = await settled(lead, url);
  const drawingId = (rows['36_pia_1.png'] as Row).id;
  // The ink across the upper line, which is 6 px wide: what is covered is its width.
  const across = await (await lead.get(`${p}/drawings/${drawingId}/across/480/63/90`)).json();
  const covered = across.coverage.reduce((s: number, c: number) => s + c, 0) * across.step_px;
  expect(Math.abs(covered - 6)).toBeLessThan(0.05);
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/checks/${id}?drawing=${drawingId}`);
  const picture = page.getByLabel(/with its measured lines/);
  const box = await picture.boundingBox();
  if (!box) throw new Error('no picture');
  // The whole drawing lies in the middle of its place.
  const scale = Math.min(box.width / W, box.height / H);
  const at = (x: number, y: number) => ({ position: { x: box.width / 2 + (x - W / 2) * scale, y: box.height / 2 + (y - H / 2) * scale } });
  await page.getByRole('button', { name: 'loupe' }).click();
  await picture.hover(at(480, 145));
  await expect(page.getByLabel('loupe', { exact: true })).toContainText('9.00 px');
  await expect(page.getByLabel('loupe', { exact: true })).toContainText('heavier than the guide');
  await picture.click(at(480, 145));
  await expect(page.getByRole('img', { name: /^width along line, 8\d\d px long/ })).toBeVisible();
  // In print at half size the 4 px line has a third of a mm, and 0.45 is the least.
  await page.getByRole('button', { name: /^in print \(1 lost\)/ }).click();
  await expect(page.getByText(/too thin in print, 0\.333 mm where 0\.45 is needed/)).toBeAttached();
  await page.getByRole('button', { name: 'Play 2 drawings' }).click();
  await expect(page.getByText(/of 2 · 24 fps/)).toBeVisible();
  await page.getByRole('button', { name: 'Pause' }).click();
  await page.getByRole('button', { name: 'Open this drawing' }).click();
  await expect(picture).toBeVisible();
  const svg = await lead.get(`${p}/drawings/${drawingId}/overlay/svg`);
  expect([svg.headers()['content-type'], (await svg.text()).match(/<path /g)?.length]).toEqual(['image/svg+xml', expect.any(Number)]);
  expect((await (await lead.get(`${p}/drawings/${drawingId}/overlay/png`)).body()).subarray(1, 4).toString()).toBe('PNG');
  const packed = (await (await lead.get(`${url}/out/overlays-svg.zip`)).body()).toString('latin1');
  expect(packed).toContain('36_pia_1.png.svg');
  expect((await lead.get(`${url}/out/everything`)).status()).toBe(404);
});

const BIN = process.env.EDDYMIST_BIN ?? '';

test('a second worker takes its share, and killed in the middle it loses nothing and leaves nothing twice', async () => {
  test.skip(!BIN || !process.env.DATABASE_URL, 'needs the program and its database');
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const worker = spawn(BIN, ['worker'], { stdio: 'ignore' });
  const many: [string, Buffer][] = Array.from({ length: 40 }, (_, k) => [`37_pia_${k + 1}.png`, drawing([6, 6, 4 + (k % 5), 6], 40 + k)]);
  const { url } = await delivered(lead, p, 'two workers', { 'many.zip': zip(many) });
  await new Promise((r) => setTimeout(r, 400));
  worker.kill('SIGKILL');
  const { view } = await settled(lead, url);
  expect(view.drawings).toHaveLength(40);
  expect(view.drawings.filter((d: Row) => d.standing === 'failed')).toHaveLength(0);
  const files = (await (await lead.get(`${url}/line-check`)).json()).drawings.map((d: { file: string }) => d.file);
  expect(new Set(files).size).toBe(40);
});

test('a watched folder does the same as the page, takes a file once, and a changed one as its next take', async () => {
  test.skip(!BIN || !process.env.DATABASE_URL, 'needs the program and its database');
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  expect((await lead.post(`${p}/guides`, { data: { ...GUIDE, name: 'to watch with' } })).status()).toBe(201);
  const folder = mkdtempSync(join(tmpdir(), 'drawings-'));
  writeFileSync(join(folder, '38_pia_1.png'), drawing([6]));
  writeFileSync(join(folder, '38_pia_2.png'), drawing([9]));
  writeFileSync(join(folder, 'notes.txt'), 'no drawing');
  const watch = (...more: string[]) =>
    execFileSync(BIN, ['watch', folder, '--once', '--delivery', 'watched', '--guide', 'to watch with', ...more], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'pipe'],
    });
  expect(watch()).toBe('2 measured, 1 to return, 0 could not be read\n');
  writeFileSync(join(folder, '38_pia_2.png'), drawing([6]));
  expect(watch()).toBe('2 measured, 0 to return, 0 could not be read\n');
  const made = (await (await lead.get(`${p}/deliveries`)).json()).find((d: { name: string }) => d.name === 'watched');
  const { rows } = await settled(lead, `${p}/deliveries/${made.id}`);
  expect(Object.keys(rows)).toHaveLength(2);
  expect(rows['38_pia_2.png']?.again).toBe(true);
  const fails = (...args: string[]) => {
    try {
      execFileSync(BIN, ['watch', ...args], { stdio: 'pipe', encoding: 'utf8' });
    } catch (e) {
      const { status, stderr } = e as { status: number; stderr: string };
      return [status, stderr];
    }
    return [];
  };
  expect(fails(join(folder, 'nowhere'))).toEqual([2, expect.stringMatching(/this is no folder/)]);
  expect(fails(folder, '--delivery', 'new', '--guide', 'none such')).toEqual([
    2,
    expect.stringMatching(/there is no such line guide; there are .*Night Tram line guide/),
  ]);
  expect(fails(folder, '--once', '--names', '{drawer}', '--delivery', 'never made')).toEqual([2, expect.stringMatching(/drawer/)]);
  expect(fails(folder, '--member', 'nobody@nighttram.example')).toEqual([2, expect.stringMatching(/no member with the address nobody@nighttram.example/)]);
  expect(fails(folder, '--member', 'wanda@nighttram.example')).toEqual([2, expect.stringMatching(/wanda@nighttram.example may not add drawings/)]);
  // In an artist's name, by names read another way.
  writeFileSync(join(folder, '1-41.png'), drawing([6], 90));
  const named = ['--names', '{drawing}-{shot}', '--member', 'dov@nighttram.example'];
  expect(
    execFileSync(BIN, ['watch', folder, '--once', '--delivery', 'watched by dov', '--guide', 'to watch with', ...named], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'pipe'],
    }),
  ).toMatch(/^\d measured/);
  const all: { name: string; id: string }[] = await (await lead.get(`${p}/deliveries`)).json();
  expect(all.map((d) => d.name)).not.toContain('never made');
  const byDov = await settled(lead, `${p}/deliveries/${all.find((d) => d.name === 'watched by dov')?.id}`);
  expect(byDov.rows['1-41.png']).toMatchObject({ manifest: { shot: '41', drawing: '1' } });
  expect(fails(folder, '--production', 'Day Bus')).toEqual([2, expect.stringMatching(/name one production with --production: .*Night Tram/)]);
});
