// One member's path through the whole job, in the real program: a pen, a tablet, a brush, a guide, a checked delivery.
import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { crc32 } from './files';
import { open } from './onBench';
import { place, signIn } from './people';

async function production(page: Page) {
  const session = await (await page.request.get('/api/v1/session')).json();
  return `/api/v1/productions/${session.productions[0].id}`;
}

/** A stroke of a pen with pressure and tilt, straight through the DevTools protocol. */
async function penStroke(page: Page, from: [number, number], to: [number, number], force: (u: number) => number) {
  const cdp = await page.context().newCDPSession(page);
  const send = (type: string, u: number, f: number) =>
    cdp.send('Input.dispatchMouseEvent', {
      type: type as 'mouseMoved',
      x: from[0] + (to[0] - from[0]) * u,
      y: from[1] + (to[1] - from[1]) * u,
      button: 'left',
      buttons: type === 'mouseReleased' ? 0 : 1,
      clickCount: 1,
      pointerType: 'pen',
      force: f,
      tiltX: 30,
      tiltY: -20,
    });
  await send('mousePressed', 0, force(0));
  for (let i = 1; i <= 60; i++) await send('mouseMoved', i / 60, force(i / 60));
  await send('mouseReleased', 1, 0);
  await cdp.detach();
}

test('a scanned line becomes a pen, and the pen a brush that says what it assumes', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  const base = await production(page);
  const scan = await (await page.request.get(`${base}/stand-ins/scans/fineliner-05`)).body();
  await place(page, 'Pens');
  await page.getByRole('link', { name: 'A few ruled lines' }).click();
  await page.getByLabel('scan file').setInputFiles({ name: 'liner.png', mimeType: 'image/png', buffer: scan });
  await expect(page.getByRole('heading', { name: '20 ruled lines found' })).toBeVisible();
  await expect(page.locator('.lane').first()).toContainText(/0\.4\d\d ± 0\.0\d\d mm/);
  await page.getByRole('button', { name: 'Save pen and make a brush' }).click();
  await expect(page.getByRole('heading', { name: 'liner' })).toBeVisible();
  await page.getByText('What was assumed').click();
  await expect(page.getByText(/one effort only/)).toBeVisible();
});

test('a scan without resolution, and what is no picture, are refused with a remedy', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  await page.goto('/pens/new');
  const file = page.getByLabel('scan file');
  await file.setInputFiles({ name: 'x.png', mimeType: 'image/png', buffer: Buffer.from('no picture') });
  await expect(page.getByRole('alert')).toContainText('PNG, TIFF and JPEG');
  const base = await production(page);
  // A header that claims 100,000×100,000 px is refused before anything is decoded.
  const huge = Buffer.from('89504e470d0a1a0a0000000d49484452000186a0000186a00806000000', 'hex');
  const crc = Buffer.alloc(4);
  crc.writeUInt32BE(crc32(huge.subarray(12)));
  const answer = await page.request.post(`${base}/scans`, {
    multipart: { file: { name: 'huge.png', mimeType: 'image/png', buffer: Buffer.concat([huge, crc, Buffer.alloc(64)]) } },
  });
  expect(answer.status()).toBe(422);
  expect((await answer.json()).detail).toMatch(/100000×100000|damaged/);
});

test('a real stylus warms up, and the strokes outlast a reload', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  await page.goto('/tablets/warm-up');
  const surface = page.getByLabel('warm-up surface');
  await expect(surface).toBeVisible();
  const box = async () => (await surface.boundingBox()) as { x: number; y: number; width: number; height: number };
  const forces = [0.1, 0.25, 0.45, 0.7, 0.95];
  for (const [step, force] of forces.entries()) {
    for (let k = 0; k < 4; k++) {
      const b = await box();
      const y = b.y + (b.height * (k + 1)) / 5;
      await penStroke(page, [b.x + 60, y], [b.x + 700, y], (u) => force + 0.004 * Math.sin(40 * u + k + step));
    }
    if (step === 1) {
      await expect(page.getByText('0 of 4 drawn')).toBeVisible();
      await page.reload();
      await expect(page.getByRole('heading', { name: /^Normal/ })).toBeVisible();
    }
  }
  for (let k = 0; k < 3; k++) {
    const b = await box();
    await penStroke(page, [b.x + 60, b.y + 60 + 50 * k], [b.x + 800, b.y + 60 + 50 * k], (u) => 0.1 + 0.85 * (1 - Math.abs(2 * u - 1)));
  }
  await page.getByRole('button', { name: 'Analyse' }).click();
  await expect(page.getByText('tilt')).toBeVisible();
  await expect(page.locator('.figure-row', { hasText: 'tilt' })).toContainText('reported');
  await page.getByLabel('On which tablet').fill('test tablet');
  await page.getByRole('button', { name: 'Save profile' }).click();
  await expect(page.getByRole('heading', { name: 'Ilse Marrow on the test tablet' })).toBeVisible();
  const inkml = await page.request.get((await page.getByRole('link', { name: 'Warm-up as InkML' }).getAttribute('href')) as string);
  expect(await inkml.text()).toContain('<annotation type="exercise">ramp</annotation>');
});

test('a brush is tuned, tried, undone, saved, gone back from and copied', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  await place(page, 'Brushes');
  await page.getByLabel('Match a pen').selectOption({ label: 'flexible steel nib' });
  await page.getByLabel('Through a tablet profile').selectOption({ label: 'Ilse Marrow on the large pen tablet' });
  await page.getByLabel('Name').fill('coat');
  await page.getByRole('button', { name: 'Make brush' }).click();
  const weight = await open(page, 'Weight');
  await expect(weight).toContainText('alike');
  const width = page.getByLabel('width in mm at effort 0.5');
  const fitted = await width.inputValue();
  const knot = await page.getByRole('slider', { name: 'width at effort 0.5' }).boundingBox();
  if (!knot) throw new Error('the knot is not there');
  await page.mouse.move(knot.x + knot.width / 2, knot.y + knot.height / 2);
  await page.mouse.down();
  await page.mouse.move(knot.x + knot.width / 2, knot.y - 14, { steps: 6 });
  await page.mouse.up();
  await expect(width).not.toHaveValue(fitted);
  await expect(weight).toContainText(/differs|too few/);
  await expect(page.getByText(/not saved/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(width).toHaveValue(fitted);
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(width).not.toHaveValue(fitted);
  // Nothing is lost on a reload: the draft is there again.
  const tuned = await width.inputValue();
  await page.waitForTimeout(1200);
  await page.reload();
  await open(page, 'Weight');
  await expect(width).toHaveValue(tuned);
  const lane = (await page.getByLabel('try lane', { exact: true }).boundingBox()) as { x: number; y: number };
  await penStroke(page, [lane.x + 40, lane.y + 30], [lane.x + 400, lane.y + 60], (u) => Math.sin(Math.PI * u));
  await expect(page.getByRole('button', { name: 'Remove last stroke' })).toBeEnabled();
  await page.getByRole('button', { name: /Save as version 2/ }).click();
  await expect(page.getByText(/version 2 · matched/)).toBeVisible();
  await page.getByRole('button', { name: 'Restore version' }).click();
  await expect(width).toHaveValue(fitted);
  await page.getByRole('button', { name: 'Start a copy' }).first().click();
  await expect(page.getByRole('heading', { name: 'coat, copy' })).toBeVisible();
});

test('a delivery is read by its names and measured, and its heavy stretches are pinned', async ({ page }) => {
  await signIn(page, 'Ilse Marrow');
  const base = await production(page);
  const deliveries = await (await page.request.get(`${base}/deliveries`)).json();
  const first = await (await page.request.get(`${base}/deliveries/${deliveries[0].id}`)).json();
  const files = [];
  for (const d of first.drawings.filter((x: { manifest: { drawing: string } }) => ['007', '002', '003', '019'].includes(x.manifest.drawing))) {
    const view = await (await page.request.get(`${base}/drawings/${d.id}`)).json();
    files.push({ name: d.file as string, mimeType: 'image/png', buffer: await (await page.request.get(`${base}/images/${view.sha256}`)).body() });
  }
  files.push({ name: 'broken.png', mimeType: 'image/png', buffer: Buffer.from(files[0]?.buffer ?? []).subarray(0, 3000) });
  await place(page, 'Checks');
  await page.getByLabel('drawings', { exact: true }).setInputFiles(files);
  await expect(page.getByText('1 of 5 files are not known')).toBeVisible();
  await page.getByLabel('Name pattern').fill('{shot}-{artist}');
  await expect(page.getByText('5 of 5 files are not known')).toBeVisible();
  await page.getByLabel('Name pattern').fill('{shot}_{artist}_{drawing}');
  await page.getByRole('button', { name: 'Check 5 drawings' }).click();
  await expect(page.getByText('2 drawings need fixes')).toBeVisible({ timeout: 40_000 });
  await expect(page.locator('.stop')).toContainText('broken.png');
  await page.getByRole('option', { name: /drawing 19/ }).click();
  await expect(page.getByRole('heading', { name: /Drawing 019 · dov/ })).toBeVisible();
  await expect(page.getByText('contour heavy', { exact: false }).first()).toBeVisible();
  await page.locator('.finding[aria-expanded]', { hasText: 'heavy contour' }).click();
  await page.locator('.finding[aria-current]').first().click();
  await expect(page.locator('.finding[aria-current]').first()).toHaveAttribute('aria-current', 'true');
});

test('a stale edit of the guide is refused with both versions, and a viewer changes nothing', async ({ page, browser }) => {
  await signIn(page, 'Ilse Marrow');
  const base = await production(page);
  const [guide] = await (await page.request.get(`${base}/guides`)).json();
  const save = (from: number) => page.request.post(`${base}/guides/${guide.id}/versions`, { data: { guide: guide.guide, from_version: from } });
  expect((await save(guide.version)).status()).toBe(201);
  const stale = await save(guide.version);
  expect(stale.status()).toBe(409);
  expect((await stale.json()).current.version).toBe(guide.version + 1);
  const other = await (await browser.newContext()).newPage();
  await signIn(other, 'Wanda Quist');
  const refused = await other.request.post(`${base}/guides`, { data: guide.guide });
  expect(refused.status()).toBe(403);
  const wrong = await other.request.post('/api/v1/session', { data: { email: 'nobody@nighttram.example', password: 'guess guess' } });
  expect(wrong.status()).toBe(401);
  expect((await (await browser.newContext()).request.get(`${base}/pens`)).status()).toBe(401);
});

test('no page asks anything of elsewhere or has a serious barrier', async ({ page, baseURL }) => {
  const elsewhere: string[] = [];
  page.on('request', (r) => {
    if (!r.url().startsWith(baseURL as string) && !r.url().startsWith('data:') && !r.url().startsWith('blob:')) elsewhere.push(r.url());
  });
  await signIn(page, 'Ilse Marrow');
  for (const name of ['Desk', 'Pens', 'Tablets', 'Brushes', 'Guides', 'Checks', 'Team']) {
    await place(page, name);
    await page.waitForLoadState('networkidle');
    const found = await new AxeBuilder({ page }).analyze();
    expect(found.violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => `${name}: ${v.id} ${v.nodes[0]?.html}`)).toEqual([]);
  }
  for (const path of ['/team?name=dov&role=contour', '/members', '/log', '/archive', '/account']) {
    await page.goto(path);
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await page.waitForLoadState('networkidle');
    const found = await new AxeBuilder({ page }).analyze();
    expect(found.violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => `${path}: ${v.id} ${v.nodes[0]?.html}`)).toEqual([]);
  }
  expect(elsewhere).toEqual([]);
});
