// Takes the pictures of docs/screenshots/ from the running demo: node e2e/screenshots.mjs http://127.0.0.1:8380 ../docs/screenshots
import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380', out = '../docs/screenshots', only = ''] = process.argv.slice(2);
const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('console', (m) => m.type() === 'error' && console.log('console:', m.text()));
page.on('pageerror', (e) => console.log('page error:', e.message));
const shot = async (name) => {
  if (only && !only.split(',').includes(name)) return;
  await page.waitForLoadState('networkidle');
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${out}/${name}.png` });
};
/** A drawing of the demo, as the rough of a trial page. */
async function roughOf() {
  const session = await (await page.request.get(`${base}/api/v1/session`)).json();
  const p = `/api/v1/productions/${session.productions[0].id}`;
  const [delivery] = await (await page.request.get(`${base}${p}/deliveries`)).json();
  const whole = await (await page.request.get(`${base}${p}/deliveries/${delivery.id}`)).json();
  const drawing = await (await page.request.get(`${base}${p}/drawings/${whole.drawings[0].id}`)).json();
  return `${p}/images/${drawing.sha256}`;
}
/** Three strokes by pen along the badger's head. */
async function inkOver() {
  const box = await page.getByLabel('trial page', { exact: true }).boundingBox();
  const cdp = await page.context().newCDPSession(page);
  const pen = (type, [x, y], force) =>
    cdp.send('Input.dispatchMouseEvent', { type, x: box.x + x, y: box.y + y, button: 'left', buttons: 1, clickCount: 1, pointerType: 'pen', force });
  const draw = async (course) => {
    await pen('mousePressed', course(0), 0.2);
    for (let i = 1; i <= 60; i++) await pen('mouseMoved', course(i / 60), 0.15 + 0.45 * Math.sin((Math.PI * i) / 60));
    await pen('mouseReleased', course(1), 0);
    await page.waitForTimeout(150);
  };
  await draw((u) => [380 + 193 * u, 128 - 70 * Math.sin(Math.PI * u)]);
  await draw((u) => [362 + 206 * u, 142 + 28 * Math.sin(Math.PI * u)]);
  await page.getByRole('button', { name: 'inner line' }).click();
  await draw((u) => [402 + 160 * u, 108 - 10 * Math.sin(Math.PI * u)]);
}
await page.goto(base);
await page.locator('.figure-row').first().getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('link', { name: 'Pens' }).waitFor();
await shot('desk');
const go = async (place) => page.getByRole('navigation').getByRole('link', { name: place }).click();
await go('Pens');
await shot('pens');
await page.locator('a.lane', { hasText: 'flexible steel nib, a month on' }).click();
await page.getByRole('heading', { name: 'Lead-out' }).waitFor();
await shot('pen');
await page.goto(`${base}/pens/sheet`);
await page.getByLabel('Or a sheet by a simulated pen').selectOption('brush-pen');
await page.getByText('cells read').waitFor({ timeout: 60000 });
await page.getByRole('button', { name: 'flicks out' }).click();
await shot('new-sheet');
await page.goto(`${base}/pens/new`);
await page.getByLabel('Or scan a simulated pen').selectOption('steel-nib');
await page.getByText('ruled lines found').waitFor({ timeout: 30000 });
await shot('new-pen');
await go('Tablets');
await shot('tablets');
await page.locator('a.card-plain').nth(1).click();
await shot('profile');
await page.goto(`${base}/tablets/transfer`);
await shot('transfer');
await page.goto(`${base}/tablets/warm-up`);
await shot('warm-up');
await go('Brushes');
await shot('brushes');
await page.locator('.rack-link').nth(2).click();
await page.getByRole('button', { name: 'Add simulated strokes' }).click();
await page.waitForTimeout(2500);
await shot('bench');
await page.goto(`${base}/brushes/proof`);
for (const name of ["Steel nib for Osk's coat", 'Split hairs for the umbrella']) await page.getByLabel('add a brush').selectOption({ label: name });
await shot('proof');
await page.goto(`${base}/brushes/paths`);
await page.getByLabel('lines (SVG)').setInputFiles(new URL('./umbrella.svg', import.meta.url).pathname);
await page.getByText('lines of umbrella.svg').waitFor();
await page.getByLabel('choose by layer').selectOption({ index: 1 });
await shot('paths');
await page.goto(`${base}/brushes/trials`);
if (!(await page.getByText('Osk, shot 012').count())) {
  const rough = await page.request.get(`${base}${await roughOf()}`);
  await page.getByLabel('Rough (PNG, JPEG)').setInputFiles({ name: 'osk.png', mimeType: 'image/png', buffer: await rough.body() });
  await page.getByLabel('Name').fill('Osk, shot 012');
  await page.getByRole('button', { name: 'Make trial page' }).click();
  await page.getByRole('button', { name: /^Use the page of/ }).click();
} else await page.getByText('Osk, shot 012').click();
await page.getByLabel('trial page', { exact: true }).waitFor();
await page.waitForTimeout(1500);
await inkOver();
await page.getByText(/· Saved$/).waitFor();
await shot('trial');
await go('Guides');
await shot('guides');
await go('Checks');
await shot('checks');
await page.getByRole('link', { name: 'Shot 012, delivery' }).click();
await page.locator('#frame-12').click();
await page.locator('#frame-12[aria-selected=true]').waitFor();
await shot('delivery');
await page.goto(`${base}/team?name=dov&role=contour`);
await page.getByText('Possible causes', { exact: true }).waitFor();
await page.evaluate(() => window.scrollTo(0, 0));
await shot('team');
if (await page.getByText('is offered to dov').count()) await page.getByRole('link', { name: 'See the correction' }).first().click();
else await page.getByRole('button', { name: 'Offer the correction to dov' }).click();
await page.getByLabel('proof figures with the correction').waitFor();
await shot('trim');
await browser.close();
