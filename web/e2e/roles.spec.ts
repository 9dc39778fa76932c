// The whole guide by hand: what is checked and how far it may go, shots, print, roles by other means than colour, versions laid
// against one another, and roles read off a model sheet. It leaves the guide as it was.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { place, signIn } from './people';

async function base(page: Page) {
  const session = await (await page.request.get('/api/v1/session')).json();
  return `/api/v1/productions/${session.productions[0].id}`;
}

async function type(page: Page, label: string, value: string) {
  const field = page.getByLabel(label, { exact: true });
  await field.fill(value);
  await field.press('Enter');
}

test('kinds, limits, shots, print and finish are set, saved as a version, laid against the one before, and taken back', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  const p = await base(page);
  const now = async () => (await (await page.request.get(`${p}/guides`)).json())[0];
  const before = await now();
  await place(page, 'Guides');
  await page.getByLabel('gap must fix').check();
  await page.getByLabel('hook is checked').uncheck();
  await type(page, 'limit of gap', '4.5');
  await type(page, 'limit of boil', '0.1');
  await type(page, 'factor of wide shots', '0.75');
  await page.getByLabel('shot size').fill('very wide');
  await page.getByRole('button', { name: 'Add shot size' }).click();
  await type(page, 'factor of very wide shots', '0.5');
  await type(page, 'frame rate, fps', '25');
  await page.getByLabel('finish').selectOption('hard');
  await page.getByRole('button', { name: 'Add print…' }).click();
  await type(page, 'reduction in per cent', '50');
  await type(page, 'thinnest line in mm', '0.12');
  // A role by the name of its layer, before all others.
  await page.getByLabel('how prop line is found').selectOption('layer');
  await page.getByLabel('layer name of prop line, * for any characters').fill('props*');
  await page.getByLabel('ends of prop line').selectOption('blunt');
  await page.getByRole('button', { name: 'prop line before stripe' }).click();
  await page.getByRole('button', { name: /^Save as version/ }).click();
  await expect(page.getByText('changed, not saved')).toHaveCount(0);
  const saved = await now();
  expect(saved.version).toBe(before.version + 1);
  expect(saved.guide.must_mend).toContain('gap');
  expect(saved.guide.off).toEqual(['hook']);
  expect([saved.guide.limits.gap_px, saved.guide.limits.boil, saved.guide.limits.speck_px2]).toEqual([4.5, 0.1, before.guide.limits.speck_px2]);
  expect(saved.guide.scale_by_shot).toEqual({ ...before.guide.scale_by_shot, wide: 0.75, 'very wide': 0.5 });
  expect([saved.guide.page.rate_fps, saved.guide.finish]).toEqual([25, 'hard']);
  expect(saved.guide.print).toMatchObject({ reduction: 0.5, thinnest_mm: 0.12 });
  expect(saved.guide.roles.map((r: { name: string }) => r.name).slice(3, 5)).toEqual(['prop line', 'stripe']);
  expect(saved.guide.roles[3]).toMatchObject({ from: { layer: 'props*' }, ends: 'blunt' });
  // Without px to the mm nothing of print is known: it is refused, and the work stays.
  await type(page, 'px to the mm', '0');
  await page.getByRole('button', { name: /^Save as version/ }).click();
  await expect(page.getByRole('alert')).toContainText('px_per_mm');
  await page.getByRole('button', { name: 'Undo' }).click();
  // The version before, against what is on the page, in words; and taken up again.
  const versions = page.getByRole('complementary', { name: 'versions' });
  await versions.getByRole('button', { name: String(before.version), exact: true }).click();
  await expect(versions).toContainText('limit: gap px');
  await expect(versions).toContainText('prop line: ends');
  await versions.getByRole('button', { name: `Restore version ${before.version} again` }).click();
  await expect(versions).toContainText('Nothing differs.');
  await page.getByRole('button', { name: /^Save as version/ }).click();
  await expect(page.getByText('changed, not saved')).toHaveCount(0);
  const after = await now();
  expect([after.version, after.guide]).toEqual([before.version + 2, before.guide]);
});

test('lines of a model sheet are pointed at and become a role with their weight, colour and spread', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  await place(page, 'Guides');
  const rows = page.locator('tbody').first().locator('tr');
  await expect(rows.first()).toBeVisible();
  const count = await rows.count();
  await page.getByRole('button', { name: 'Roles from a model sheet' }).click();
  const line = (y: number, width: number, colour: string) => `<path d="M200 ${y}H1700" stroke="${colour}" stroke-width="${width}"/>`;
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="1920" height="1080"><rect width="1920" height="1080" fill="#fff"/>
    ${line(200, 7.6, '#204060')}${line(300, 8, '#204060')}${line(400, 8.4, '#204060')}${line(600, 3, '#a03020')}</svg>`;
  const field = page.getByLabel('model sheet drawing');
  await field.setInputFiles({ name: 'words.png', mimeType: 'image/png', buffer: Buffer.from('words') });
  await expect(page.getByRole('alert')).toContainText('PNG');
  await field.setInputFiles({ name: 'sheet.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) });
  await expect(page.getByText('4 lines in 2 colours')).toBeVisible();
  await page.getByLabel('name of the role', { exact: true }).fill('rail');
  // By keyboard one by one; lines of two colours are no role.
  const lines = page.getByRole('checkbox', { name: /^line \d/ });
  await lines.nth(0).focus();
  await page.keyboard.press(' ');
  await expect(lines.nth(0)).toHaveAttribute('aria-checked', 'true');
  await lines.nth(3).focus();
  await page.keyboard.press(' ');
  await page.getByRole('button', { name: 'Make a role of 2 lines' }).click();
  await expect(page.getByRole('alert')).toContainText('choose lines of one colour');
  await page.getByRole('button', { name: '#204060' }).click();
  await page.getByRole('button', { name: 'Make a role of 3 lines' }).click();
  await expect(rows).toHaveCount(count + 1);
  await expect(page.getByLabel('target of rail in px')).toHaveValue('8.0');
  await expect(page.getByRole('status').filter({ hasText: /rail was read from 9\d % of the lines’ length/ })).toBeVisible();
  // Twice the spread of 7.6, 8 and 8.4: 8.2 %.
  await expect(page.getByLabel('tolerance of rail in per cent')).toHaveValue(/^[89]$/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rows).toHaveCount(count);
});

test('the command gives the same figures as the page, and drawings of several sizes are held against the guide scaled', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  const p = await base(page);
  const binary = process.env.EDDYMIST_BIN ?? '../target/release/eddymist';
  const folder = mkdtempSync(join(tmpdir(), 'same-'));
  const deliveries = await (await page.request.get(`${p}/deliveries`)).json();
  const demo = deliveries.find((d: { name: string }) => d.name.startsWith('Shot 018'));
  const view = await (await page.request.get(`${p}/deliveries/${demo.id}`)).json();
  writeFileSync(join(folder, 'guide.json'), JSON.stringify(view.guide));
  const files: string[] = [];
  for (const d of view.drawings) {
    files.push(d.file);
    writeFileSync(join(folder, d.file), await (await page.request.get(`${p}/images/${d.sha256}`)).body());
  }
  const run = (...more: string[]) =>
    JSON.parse(
      execFileSync(binary, ['check', '--guide', join(folder, 'guide.json'), folder, '--names', '{shot}_{artist}_{drawing}', '--json', ...more], {
        maxBuffer: 1 << 28,
        stdio: ['ignore', 'pipe', 'ignore'],
      }).toString(),
    );
  // What the demo's manifest says besides the names.
  const manifest = join(mkdtempSync(join(tmpdir(), 'said-')), 'manifest.csv');
  const rows = view.drawings.map((d: { file: string; manifest: Record<string, string> }) => [d.file, d.manifest.tablet, d.manifest.brush, d.manifest.drawn_at]);
  writeFileSync(manifest, ['file,tablet,brush,drawn_at', ...rows].join('\n'));
  const own = run('--manifest', manifest, '--overlay', join(folder, 'out'));
  const served = await (await page.request.get(`${p}/deliveries/${demo.id}/line-check`)).json();
  const bare = (d: { file: string }) => ({ ...d, file: d.file.split('/').pop() });
  expect(own.drawings.map(bare)).toEqual(served.drawings);
  const sequence = (all: { drawings: string[] }[]) => all.map((s) => ({ ...s, drawings: s.drawings.map((d) => d.split('/').pop()) }));
  expect(sequence(own.sequence)).toEqual(sequence(served.sequence));
  expect(own.drawings).toHaveLength(files.length);
  // The same lines at half and at one and a half times the size of the page.
  const { id } = await (await page.request.post(`${p}/deliveries`, { data: { name: 'sizes', guide_id: view.guide_id, pattern: '' } })).json();
  for (const scale of [0.5, 1, 1.5]) {
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${1920 * scale}" height="${1080 * scale}"><rect width="100%" height="100%" fill="#fff"/>
      <path d="M${100 * scale} ${200 * scale}H${1700 * scale}" stroke="#1b1e24" stroke-width="${6 * scale}"/></svg>`;
    const file = { name: `${scale}.svg`, mimeType: 'image/svg+xml', buffer: Buffer.from(svg) };
    await page.request.post(`${p}/deliveries/${id}/drawings`, { multipart: { file } });
  }
  const check = async () => (await (await page.request.get(`${p}/deliveries/${id}/line-check`)).json()).drawings;
  await expect.poll(async () => (await check()).length, { timeout: 60_000 }).toBe(3);
  const scaled = (await check()).sort((a: { scale: number }, b: { scale: number }) => a.scale - b.scale);
  const roles = scaled.map((d: { scale: number; roles: { verdict: string; weight_px: { mean: number } }[] }) => [
    d.scale,
    d.roles[0]?.verdict,
    Math.round((d.roles[0]?.weight_px.mean ?? 0) * 10) / 10,
  ]);
  expect(roles).toEqual([
    [0.5, 'within', 3],
    [1, 'within', 6],
    [1.5, 'within', 9],
  ]);
});
