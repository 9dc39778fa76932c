// Script and layout per frame while a stroke is drawn on a trial page over a 1920×1080 rough, by the DevTools protocol:
// node e2e/frames.mjs http://127.0.0.1:8380 ROUGH.png (a running demo; eddymist-bench drawing ROUGH.png makes one)
import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380', rough = ''] = process.argv.slice(2);
const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(base);
await page.getByRole('button', { name: 'Sign in' }).first().click();
await page.getByRole('link', { name: 'Pens' }).waitFor();
await page.goto(`${base}/brushes/trials`);
if (rough) await page.getByLabel('Rough (PNG, JPEG)').setInputFiles(rough);
await page.getByRole('button', { name: /^Make/ }).click();
await page.getByLabel('trial page', { exact: true }).waitFor();
await page.waitForTimeout(2000);
const box = await page.getByLabel('trial page', { exact: true }).boundingBox();
const cdp = await page.context().newCDPSession(page);
await cdp.send('Performance.enable');
const spent = async () => {
  const { metrics } = await cdp.send('Performance.getMetrics');
  return ['ScriptDuration', 'LayoutDuration', 'RecalcStyleDuration'].reduce((sum, name) => sum + (metrics.find((m) => m.name === name)?.value ?? 0), 0);
};
await page.evaluate(() => {
  window.frames_ = 0;
  const count = () => {
    window.frames_++;
    requestAnimationFrame(count);
  };
  requestAnimationFrame(count);
});
const pen = (type, u, pressure) =>
  cdp.send('Input.dispatchMouseEvent', {
    type,
    x: box.x + 60 + 820 * u,
    y: box.y + 260 + 180 * Math.sin(21 * u),
    button: 'left',
    buttons: 1,
    clickCount: 1,
    pointerType: 'pen',
    force: pressure,
    tiltX: 20,
    tiltY: 30,
  });
// Every step waits for the frame that it made: what it cost is that frame's.
const frame = () => page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(() => r(window.frames_)))));
const costs = [];
await pen('mousePressed', 0, 0.3);
const begun = performance.now();
const first = await frame();
const N = 400;
let frames = first;
for (let i = 1; i <= N; i++) {
  const [before, then] = [await spent(), frames];
  await pen('mouseMoved', i / N, 0.4 + 0.3 * Math.sin(i / 20));
  frames = await frame();
  costs.push((1000 * ((await spent()) - before)) / Math.max(1, frames - then));
}
const seconds = (performance.now() - begun) / 1000;
await pen('mouseReleased', 1, 0);
costs.sort((a, b) => a - b);
const at = (q) => costs[Math.floor(q * (costs.length - 1))].toFixed(2);
console.log(`script, style and layout a frame\tms\tmedian ${at(0.5)}, 95th percentile ${at(0.95)}, worst ${at(1)}`);
console.log(`frames while it was drawn\tper s\t${((frames - first) / seconds).toFixed(0)}`);
await browser.close();
