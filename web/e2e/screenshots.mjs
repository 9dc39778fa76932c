// Takes the pictures of docs/screenshots/ from the running demo: node e2e/screenshots.mjs http://127.0.0.1:8380 ../docs/screenshots
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380', out = '../docs/screenshots', only = ''] = process.argv.slice(2);
const args = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
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
await page.goto(base);
await shot('sign-in');
await page.getByRole('button', { name: 'Go in' }).first().click();
await page.getByRole('link', { name: 'Pens' }).waitFor();
await shot('desk');
const go = async (place) => page.getByRole('navigation').getByRole('link', { name: place }).click();
await go('Pens');
await shot('pens');
await page.locator('a.lane').nth(2).click();
await shot('pen');
await page.goto(`${base}/pens/new`);
await page.getByLabel('Or scan a simulated pen').selectOption('steel-nib');
await page.getByText('ruled lines found').waitFor({ timeout: 30000 });
await shot('new-pen');
await go('Tablets');
await shot('tablets');
await page.locator('a.card-plain').nth(1).click();
await shot('profile');
await page.goto(`${base}/tablets/warm-up`);
await shot('warm-up');
await go('Brushes');
await shot('brushes');
await page.locator('a.lane').first().click();
await page.getByRole('button', { name: 'simulated hand' }).click();
await shot('bench');
await go('Guides');
await shot('guides');
await go('Checks');
await shot('checks');
await page.getByRole('link', { name: 'Shot 012' }).click();
await shot('delivery');
await go('Team');
await shot('team');
await browser.close();
