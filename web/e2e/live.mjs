// The browser's cost of one more live sample: node e2e/live.mjs http://127.0.0.1:8380 (a running server with its pages built)
import { readdirSync, readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';

const [base = 'http://127.0.0.1:8380'] = process.argv.slice(2);
const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const wasm = readdirSync('dist/assets').find((f) => f.endsWith('.wasm'));
const glue = readFileSync('engine/prebuilt/eddymist_wasm.js', 'utf8');
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
const page = await (await browser.newContext({ bypassCSP: true })).newPage();
await page.goto(base);
const times = await page.evaluate(
  async ([source, url]) => {
    const module = await import(URL.createObjectURL(new Blob([source], { type: 'text/javascript' })));
    await module.default({ module_or_path: url });
    const brush = JSON.stringify({
      format: 'eddymist/brush',
      version: 1,
      name: 'b',
      nib: { shape: 'round' },
      weight: [
        [0, 0.2],
        [1, 1.2],
      ],
    });
    const engine = new module.Engine(brush, new Float64Array(), 96 / 25.4);
    return [200, 2000, 20000].map((n) => {
      const live = engine.begin(1);
      const push = (i) => live.push(i * 5, (12 * i) / 400 + 8 * Math.sin(i / 170), 9 * Math.sin(i / 230), 0.5 + 0.4 * Math.sin(i / 130), NaN, NaN);
      for (let i = 0; i < n - 400; i++) push(i);
      const t = performance.now();
      for (let i = n - 400; i < n; i++) push(i);
      return [n, (performance.now() - t) / 400];
    });
  },
  [glue, `/assets/${wasm}`],
);
for (const [n, ms] of times) console.log(`one more live sample at ${n}, browser\tms\t${ms.toFixed(5)}`);
await browser.close();
