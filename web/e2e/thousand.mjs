// How long a delivery of a thousand drawings takes to decide by keyboard: node e2e/thousand.mjs http://127.0.0.1:8380 [drawings]. It makes a
// guide and a delivery of its own in the running demo.
import { readFileSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380', count = '1000'] = process.argv.slice(2);
const N = Number(count);
const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const table = Array.from({ length: 256 }, (_, n) => Array.from({ length: 8 }).reduce((c) => (c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1), n) >>> 0);
const crc = (b) => ~b.reduce((c, v) => (c >>> 8) ^ table[(c ^ v) & 255], ~0) >>> 0;
/** Level lines of these widths, grey, 640 by 360 px. */
function drawing(widths) {
  const [w, h] = [640, 360];
  const rows = Buffer.alloc((w + 1) * h, 255);
  for (let y = 0; y < h; y++) {
    rows[y * (w + 1)] = 0;
    for (let x = 40; x < w - 40; x++) if (widths.some((t, k) => y >= 40 + 60 * k && y < 40 + 60 * k + t)) rows[y * (w + 1) + 1 + x] = 30;
  }
  const chunk = (type, data) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const [head, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    head.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc(body));
    return Buffer.concat([head, body, sum]);
  };
  const header = Buffer.from([0, 0, w >> 8, w & 255, 0, 0, h >> 8, h & 255, 8, 0, 0, 0, 0]);
  return Buffer.concat([Buffer.from('89504e470d0a1a0a', 'hex'), chunk('IHDR', header), chunk('IDAT', deflateSync(rows)), chunk('IEND', Buffer.alloc(0))]);
}
const seconds = (from) => ((performance.now() - from) / 1000).toFixed(1);
const quantile = (all, q) => [...all].sort((a, b) => a - b)[Math.floor(q * (all.length - 1))];

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(base);
await page.locator('.figure-row', { hasText: 'Ilse Marrow' }).getByText('Sign in').click();
await page.getByRole('navigation', { name: 'Places' }).waitFor();
const session = await (await page.request.get(`${base}/api/v1/session`)).json();
const p = `${base}/api/v1/productions/${session.productions[0].id}`;
const role = { name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.2 } };
const guide = {
  format: 'eddymist/line-guide',
  version: 1,
  name: 'thousand',
  page: { width_px: 640, height_px: 360 },
  roles: [role],
  must_mend: ['heavy'],
  off: ['hard-edge'],
};
const { id: guide_id } = await (await page.request.post(`${p}/guides`, { data: guide })).json();
const { id } = await (await page.request.post(`${p}/deliveries`, { data: { name: `${N} drawings`, guide_id, pattern: '{shot}_{artist}_{drawing}' } })).json();
const url = `${p}/deliveries/${id}`;
let from = performance.now();
// Every tenth is heavy; no two are the same picture.
for (let k = 0; k < N; k += 50) {
  const form = new FormData();
  for (let i = k; i < Math.min(N, k + 50); i++)
    form.append(
      'file',
      new File([drawing([i % 10 ? 6 : 9, 6, 3 + (i % 7), 2 + ((i / 7) % 8)])], `9_dov_${String(i + 1).padStart(4, '0')}.png`, { type: 'image/png' }),
    );
  const sent = await page.request.post(`${url}/drawings`, { multipart: form });
  if (!sent.ok()) throw new Error(await sent.text());
}
console.log(`${N} drawings sent in ${seconds(from)} s`);
from = performance.now();
const waiting = () => page.request.get(url).then(async (r) => (await r.json()).headline);
while (/still to measure/.test(await waiting())) await page.waitForTimeout(1000);
console.log(`measured in ${seconds(from)} s more`);
from = performance.now();
await page.goto(`${base}/checks/${id}`);
await page.getByLabel(/with its measured lines/).waitFor();
console.log(`the page with its first drawing: ${seconds(from)} s`);
const times = { ready: [], next: [] };
const shown = () => page.evaluate(() => new URLSearchParams(location.search).get('drawing'));
for (let k = 0; k < 40; k++) {
  let t = performance.now();
  await page.keyboard.press('1');
  await page.locator('.lanes h2 + .tight', { hasText: 'ready' }).waitFor();
  times.ready.push(performance.now() - t);
  const before = await shown();
  t = performance.now();
  await page.keyboard.press('u');
  await page.waitForFunction((b) => new URLSearchParams(location.search).get('drawing') !== b, before);
  await page.getByLabel(/with its measured lines/).waitFor();
  times.next.push(performance.now() - t);
}
for (const [what, all] of Object.entries(times))
  console.log(
    `${what}: median ${quantile(all, 0.5).toFixed(0)} ms, 95th percentile ${quantile(all, 0.95).toFixed(0)} ms, worst ${quantile(all, 1).toFixed(0)} ms`,
  );
from = performance.now();
await page.getByRole('button', { name: /^Mark \d+ as ready$/ }).click();
await page.getByText(/drawings marked as ready/).waitFor();
console.log(`all that pass marked as ready: ${seconds(from)} s`);
from = performance.now();
await page.keyboard.press('Control+z');
await page.getByText(/drawings marked as ready/).waitFor({ state: 'hidden' });
console.log(`and undone: ${seconds(from)} s`);
await browser.close();
