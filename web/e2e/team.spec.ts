// The team: from the sentence to what it fits, the correction offered, taken, and found to have worked; the report, as the command gives it.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { png } from './files';
import { asMember, production, signIn } from './people';

const [W, H] = [960, 540];

/** Level lines of these widths, and one that tells drawings apart. */
const drawing = (widths: number[], k: number) =>
  png(W, H, (x, y) => widths.some((w, i) => x >= 60 + k && x < W - 60 - (i ? 0 : 9 * ((k * 7) % 11)) && y >= 60 + 80 * i && y < 60 + 80 * i + w));
const wide = (mean: 6 | 7, k: number) => Array.from({ length: 5 }, (_, i) => mean + (i === k % 5 ? 1 : 0));

async function delivered(lead: APIRequestContext, p: string, name: string, guide_id: string, files: [string, Buffer][], csv: string) {
  const { id } = await (await lead.post(`${p}/deliveries`, { data: { name, guide_id, pattern: '{shot}_{artist}_{drawing}', csv } })).json();
  for (const [file, buffer] of files) await lead.post(`${p}/deliveries/${id}/drawings`, { multipart: { file: { name: file, mimeType: 'image/png', buffer } } });
  await expect
    .poll(async () => (await (await lead.get(`${p}/deliveries/${id}`)).json()).drawings.filter((d: { standing: string }) => d.standing === 'waiting').length)
    .toBe(0);
  return id as string;
}

test('who differs is said, with what it fits; the correction is offered, taken by the artist, and worked by the next delivery', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const guide = {
    format: 'eddymist/line-guide',
    version: 1,
    name: `team ${Date.now()}`,
    page: { width_px: W, height_px: H, px_per_mm: 6 },
    off: ['hard-edge'],
  };
  const roles = [{ name: 'contour', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } }];
  const guide_id = (await (await lead.post(`${p}/guides`, { data: { ...guide, roles } })).json()).id;
  const files: [string, Buffer][] = [];
  let csv = 'file,tablet,brush,drawn_at\n';
  for (let k = 0; k < 9; k++) {
    const on = k < 3 ? 'large pen tablet' : 'old pen tablet';
    for (const [i, [artist, tablet, mean]] of (
      [
        ['dov', on, k < 3 ? 6 : 7],
        ['pia', 'display', 6],
        ['ilse', 'large pen tablet', 6],
      ] as const
    ).entries()) {
      files.push([`70_${artist}_${3 * k + i}.png`, drawing(wide(mean, k), files.length)]);
      csv += `70_${artist}_${3 * k + i}.png,${tablet},Steel nib for Osk's coat,2026-11-${10 + k}T10:00\n`;
    }
  }
  const first = await delivered(lead, p, 'shot 70', guide_id, files, csv);
  await signIn(page, 'Ilse Marrow');
  await page.goto(`/team?guide=${guide_id}`);
  await expect(page.getByRole('heading', { name: '1 artist differs' })).toBeVisible();
  await expect(page.getByText(/dov: contour 1\.\d\d px heavy since 13 November, old pen tablet/)).toBeVisible();
  // The whole working by keyboard: from the sentence's step on.
  await page.getByRole('button', { name: 'See possible causes' }).focus();
  await page.keyboard.press('Enter');
  await expect(
    page.getByText(/It goes with the tablet: 7\.\d\d px in 6 drawings with old pen tablet, 6\.\d\d px in 3 drawings with large pen tablet/),
  ).toBeVisible();
  await expect(page.getByText('pia and ilse drew with the same brush').or(page.getByText('ilse and pia drew with the same brush'))).toBeVisible();
  await expect(page.getByRole('img', { name: 'weight of contour in 9 drawings of dov' })).toBeVisible();
  await expect(page.getByText('None since the change: these drawings vary as one steady hand’s do.')).toBeVisible();
  await page.getByRole('button', { name: /^pia, contour: 6\.\d\d px, within, 9 drawings/ }).click();
  await expect(page.getByRole('heading', { name: /pia, contour: 6\.\d\d px, within/ })).toBeVisible();
  await expect(page.getByText('Possible causes', { exact: true })).toHaveCount(0);
  // A reload loses nothing.
  await page.getByRole('button', { name: /^dov, contour/ }).click();
  await page.reload();
  await page.getByRole('button', { name: 'Offer the correction to dov' }).click();
  await expect(page.getByRole('heading', { name: 'The weight correction of contour waits for dov' })).toBeVisible();
  const trim = page.url().split('/').pop();
  // The lead cannot take it for him, nor offer it twice.
  expect((await lead.post(`${p}/trims/${trim}/take`)).status()).toBe(403);
  const twice = await lead.post(`${p}/trims`, { data: { artist: 'dov', role: 'contour', onto: 'brush', of: { guide: guide_id } } });
  expect([twice.status(), (await twice.json()).detail]).toEqual([409, expect.stringContaining('waits already')]);
  const none = await lead.post(`${p}/trims`, { data: { artist: 'pia', role: 'contour', onto: 'brush', of: { guide: guide_id } } });
  expect([none.status(), (await none.json()).detail]).toEqual([422, expect.stringContaining('nothing to correct')]);
  await page.goto('/');
  await page.locator('#member').click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await signIn(page, 'Dov Tarrant');
  await page.locator('.lanes > div', { hasText: 'offers you a weight correction: contour' }).getByRole('link').click();
  await expect(page.getByRole('img', { name: /with the correction: 6\.\d\d px/ })).toBeVisible();
  await expect(page.getByRole('img', { name: 'proof figures with the correction' })).toBeVisible();
  await page.getByRole('button', { name: 'Accept' }).click();
  await expect(page.getByText(/no drawing since it was accepted/)).toBeVisible();
  await page.getByRole('link', { name: 'To the brush' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText("Steel nib for Osk's coat for dov");
  const brush = await (await lead.get(`${p}/brushes/${page.url().split('/').pop()}`)).json();
  const shared = (await (await lead.get(`${p}/brushes`)).json()).find((b: { name: string }) => b.name === "Steel nib for Osk's coat");
  expect(brush.versions[0].brush.weight.at(-1)[1]).toBeLessThan(shared.brush.weight.at(-1)[1]);
  // Taken once.
  expect((await (await asMember('dov@nighttram.example')).post(`${p}/trims/${trim}/take`)).status()).toBe(409);
  const next: [string, Buffer][] = [0, 1, 2, 3].map((k) => [`71_dov_${k}.png`, drawing(wide(6, k), k)]);
  await delivered(lead, p, 'shot 71', guide_id, next, 'file,tablet\n71_dov_0.png,old pen tablet\n');
  await page.goto(`/team/trims/${trim}`);
  await expect(page.getByText(/It worked: contour 6\.\d\d px/)).toBeVisible();
  // By tablet, and of one delivery and span alone.
  const team = async (query: string) => (await (await lead.get(`${p}/team?guide=${guide_id}&${query}`)).json()).look;
  expect((await team('by=tablet')).sentences[0].name).toBe('old pen tablet');
  expect((await team(`delivery=${first}&to=2026-11-12`)).sentences).toEqual([]);
  expect((await team('shot=71')).drawings).toBe(4);
  for (const query of ['from=yesterday', 'from=2026-11-12&to=2026-11-10', 'by=mood'])
    expect([400, 422]).toContain((await lead.get(`${p}/team?${query}`)).status());
});

test('the report is PDF on A4 and Letter and CSV, and the command gives the same', async () => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const all = await (await lead.get(`${p}/team`)).json();
  const guide = all.guides.find((g: { name: string }) => g.name === 'Night Tram line guide');
  const get = async (kind: string, query = '') => lead.get(`${p}/team/report/${kind}?guide=${guide.id}${query}`);
  const sizes = [];
  for (const paper of ['a4', 'letter']) {
    const pdf = (await (await get('pdf', `&paper=${paper}`)).body()).toString('latin1');
    expect(pdf.startsWith('%PDF-')).toBe(true);
    sizes.push(
      pdf
        .match(/MediaBox\s*\[([^\]]+)\]/)?.[1]
        ?.trim()
        .split(/\s+/)
        .map((v) => Math.round(Number(v)))
        .slice(2),
    );
  }
  expect(sizes).toEqual([
    [595, 842],
    [612, 792],
  ]);
  expect((await get('pdf', '&paper=a3')).status()).toBe(422);
  expect((await get('doc')).status()).toBe(404);
  const csv = await (await get('csv')).text();
  expect(csv.split('\n')[0]).toBe(
    'artist,role,target_px,tolerance,drawings,mean_px,mean_low_px,mean_high_px,now_px,now_low_px,now_high_px,verdict,since,drift_px',
  );
  expect(csv).toMatch(/dov,contour,6,0\.1,11,.*,heavy,2026-11-21,/);
  expect(csv).toMatch(/teo,contour,6,0\.1,12,.*,thin,/);
  test.skip(!process.env.EDDYMIST_BIN, 'needs the command');
  const out = join(mkdtempSync(join(tmpdir(), 'eddymist-')), 'team.csv');
  const production_name = (await (await lead.get('/api/v1/session')).json()).productions[0].name;
  const report = (...flags: string[]) => {
    rmSync(out, { force: true });
    const args = ['report', '--production', production_name, '--guide', 'Night Tram line guide', '--out', out, ...flags];
    const { status, stderr } = spawnSync(process.env.EDDYMIST_BIN ?? '', args, { encoding: 'utf8' });
    return status === 0 ? readFileSync(out, 'utf8') : `${status} ${existsSync(out) ? 'and wrote' : ''} ${stderr}`;
  };
  expect(report()).toBe(csv);
  // Every flag does what the address does with it.
  const deliveries: { id: string; name: string }[] = await (await lead.get(`${p}/deliveries`)).json();
  const reported = await Promise.all(deliveries.map(async (d) => (await get('csv', `&delivery=${d.id}`)).ok()));
  const delivery = deliveries.find((d, i) => reported[i] && deliveries.filter((e) => e.name === d.name).length === 1) ?? { id: '', name: '' };
  const asked: [string[], string][] = [
    [['--by', 'tablet'], '&by=tablet'],
    [['--by=brush'], '&by=brush'],
    [['--shot', '12'], '&shot=12'],
    [['--from', '2026-11-20', '--to', '2026-11-22'], '&from=2026-11-20&to=2026-11-22'],
    [['--delivery', delivery.name], `&delivery=${delivery.id}`],
  ];
  for (const [flags, query] of asked) {
    const page = await get('csv', query);
    const text = await page.text();
    expect(report(...flags)).toEqual(page.ok() ? text : expect.stringContaining(JSON.parse(text).detail));
    expect(text).not.toBe(csv);
  }
  // What cannot be is refused in one line, and writes nothing.
  const bad: [string[], RegExp][] = [
    [['--delivery', 'none such'], /^2 {2}eddymist: there is no delivery “none such” in this production; there are .+\n$/],
    [['--shot', 'none such'], /^2 {2}eddymist: no measured drawing matches.+\n$/],
    [['--from', 'yesterday'], /^2 {2}eddymist: .*yesterday.*\n$/],
    [['--to', '2026-02-30'], /^2 {2}eddymist: .*2026-02-30.*\n$/],
    [['--from', '2026-11-12', '--to', '2026-11-10'], /^2 {2}eddymist: .+\n$/],
    [['--paper', 'a3'], /^2 {2}eddymist: .*a4 or letter.*\n$/],
  ];
  for (const [flags, says] of bad) expect(report(...flags), flags.join(' ')).toMatch(says);
  const other = spawnSync(process.env.EDDYMIST_BIN ?? '', ['report', '--guide', 'none such', '--production', production_name, '--out', out], {
    encoding: 'utf8',
  });
  expect([other.status, other.stderr]).toEqual([2, expect.stringMatching(/no line guide “none such” .*there are .*Night Tram line guide/)]);
});
