// From a pen's report to the frame that shows it, on a trial page of 4000×3000 beside a page with one bare canvas in the same run, at one and at
// two pixels a point, and the time of an undo: node e2e/frames.mjs http://127.0.0.1:8380 (a running demo)
import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380'] = process.argv.slice(2);
const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const STEPS = 300;
const quantile = (of, q) => [...of].sort((a, b) => a - b)[Math.floor(q * (of.length - 1))];

/** A report's way ends when the frame after it has been handed over: a message posted in a frame's callback comes after its paint. */
const watch = () => {
  window.ways = [];
  const painted = (then) => {
    requestAnimationFrame(() => {
      const channel = new MessageChannel();
      channel.port1.onmessage = () => then(performance.now());
      channel.port2.postMessage(0);
    });
  };
  window.painted = painted;
  window.addEventListener('pointermove', (e) => e.buttons && painted((t) => window.ways.push(t - e.timeStamp)), { capture: true });
};

const BARE = `<body style="margin:0"><canvas id="c" style="width:1200px;height:700px;touch-action:none"></canvas><script>
const c = document.getElementById('c'); c.width = 1200 * devicePixelRatio; c.height = 700 * devicePixelRatio;
const g = c.getContext('2d'); g.scale(devicePixelRatio, devicePixelRatio); g.lineWidth = 3; let at = null;
c.addEventListener('pointerdown', (e) => (at = [e.offsetX, e.offsetY]));
c.addEventListener('pointermove', (e) => { if (!e.buttons || !at) return; g.beginPath(); g.moveTo(...at); at = [e.offsetX, e.offsetY]; g.lineTo(...at); g.stroke(); });
</script>`;

/** A stroke of the pen over a box, a report a frame; the ways of its reports. */
async function stroke(page, box, turns) {
  const cdp = await page.context().newCDPSession(page);
  const pen = (type, u, force) =>
    cdp.send('Input.dispatchMouseEvent', {
      type,
      x: box.x + box.width * (0.08 + 0.84 * u),
      y: box.y + box.height * (0.5 + 0.35 * Math.sin(turns * u)),
      button: 'left',
      buttons: 1,
      clickCount: 1,
      pointerType: 'pen',
      force,
      tiltX: 20,
      tiltY: 30,
    });
  await page.evaluate(() => (window.ways = []));
  await pen('mousePressed', 0, 0.3);
  for (let i = 1; i <= STEPS; i++) {
    await pen('mouseMoved', i / STEPS, 0.4 + 0.3 * Math.sin(i / 20));
    await page.evaluate(() => new Promise((r) => requestAnimationFrame(r)));
  }
  await pen('mouseReleased', 1, 0);
  return page.evaluate(() => new Promise((r) => setTimeout(() => r(window.ways), 300)));
}

for (const deviceScaleFactor of [1, 2]) {
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, deviceScaleFactor });
  const bare = await context.newPage();
  await bare.goto(`data:text/html;base64,${Buffer.from(BARE).toString('base64')}`);
  await bare.evaluate(watch);
  const plain = await stroke(bare, { x: 0, y: 0, width: 1200, height: 700 }, 21);
  await bare.close();

  const page = await context.newPage();
  await page.goto(base);
  await page.locator('.figure-row').first().getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('link', { name: 'Pens' }).waitFor();
  const [production] = (await (await page.request.get(`${base}/api/v1/session`)).json()).productions;
  const sheet = { width_px: 4000, height_px: 3000, px_per_mm: 12, strokes: [] };
  const made = await page.request.post(`${base}/api/v1/productions/${production.id}/trials`, { data: { name: 'frames', page: sheet } });
  await page.goto(`${base}/brushes/trials/${(await made.json()).id}`);
  const surface = page.getByLabel('trial page', { exact: true });
  await surface.waitFor();
  await page.waitForTimeout(2000);
  await page.evaluate(watch);
  const ways = [];
  // The second stroke crosses the first, with a page of finished ink beneath it.
  for (const turns of [21, 13]) ways.push(...(await stroke(page, await surface.boundingBox(), turns)));
  await page.getByText(/2 strokes/).waitFor();
  await page.evaluate(() =>
    window.addEventListener('keydown', (e) => e.key === 'z' && window.painted((t) => (window.undone = t - e.timeStamp)), { capture: true }),
  );
  const undo = [];
  for (const keys of ['Control+z', 'Control+z']) {
    await page.keyboard.press(keys);
    await page.waitForTimeout(500);
    undo.push(await page.evaluate(() => window.undone));
  }
  const at = (of) => `median ${quantile(of, 0.5).toFixed(1)}, 95th percentile ${quantile(of, 0.95).toFixed(1)} (${of.length} reports)`;
  console.log(`report to frame at ${deviceScaleFactor} px a point, a bare canvas\tms\t${at(plain)}`);
  console.log(`report to frame at ${deviceScaleFactor} px a point, a trial page of 4000×3000\tms\t${at(ways)}`);
  console.log(
    `more than the bare canvas\tms\tmedian ${(quantile(ways, 0.5) - quantile(plain, 0.5)).toFixed(1)}, 95th percentile ${(quantile(ways, 0.95) - quantile(plain, 0.95)).toFixed(1)}`,
  );
  console.log(`undo to frame\tms\t${undo.map((t) => t?.toFixed(1)).join(', ')}`);
  await browser.close();
}
