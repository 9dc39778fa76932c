// How quickly the page of a large delivery opens, and script and layout per frame while its lanes are scrolled, by the DevTools
// protocol: node e2e/lanes.mjs http://127.0.0.1:8380 NAME (a running demo; bench/delivery.py makes a delivery of any size)
import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380', name = '2000 drawings to time'] = process.argv.slice(2);
const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(base);
await page.locator('.figure-row').first().getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('link', { name: 'Checks' }).click();
const link = page.getByRole('link', { name });
await link.waitFor();
const url = await link.getAttribute('href');
const opened = [];
for (let i = 0; i < 7; i++) {
  // From the address, as a link in a mail: the application, the delivery, and the drawing with its lines.
  const begun = performance.now();
  await page.goto(base + url);
  await page.locator('#frame-0').waitFor();
  const lanes = performance.now() - begun;
  await page.locator('svg[aria-label^="drawing "] path').first().waitFor({ state: 'attached' });
  opened.push([lanes, performance.now() - begun]);
}
opened.sort((a, b) => a[1] - b[1]);
console.log(
  `page opened: lanes, and drawing below them\tms\tmedian ${opened[3][0].toFixed(0)}, ${opened[3][1].toFixed(0)}; slowest ${opened[6][1].toFixed(0)}`,
);
const cdp = await page.context().newCDPSession(page);
await cdp.send('Performance.enable');
const spent = async () => {
  const { metrics } = await cdp.send('Performance.getMetrics');
  return ['ScriptDuration', 'LayoutDuration', 'RecalcStyleDuration'].reduce((sum, n) => sum + (metrics.find((m) => m.name === n)?.value ?? 0), 0);
};
const box = await page.locator('.frame-lanes').boundingBox();
await page.mouse.move(box.x + 600, box.y + 120);
await page.waitForTimeout(500);
const frame = () => page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(() => r(0)))));
const costs = [];
for (let i = 0; i < 400; i++) {
  const before = await spent();
  await page.mouse.wheel(i % 50 < 40 ? 90 : -240, 0);
  // Two frames: the scroll's, and that of the columns it brought.
  await frame();
  costs.push(500 * ((await spent()) - before));
}
costs.sort((a, b) => a - b);
const at = (q) => costs[Math.floor(q * (costs.length - 1))].toFixed(2);
console.log(`script, style and layout a frame while scrolling\tms\tmedian ${at(0.5)}, 95th percentile ${at(0.95)}, worst ${at(1)}`);
console.log(`columns drawn of all\tn\t${await page.locator('.frame-lanes [role=option]').count()}`);
await browser.close();
