// The main pages of the demo as pictures with their times hidden: node e2e/same.mjs ADDRESS OUT; how many pixels of two pictures
// differ: node e2e/same.mjs pixels A B.
import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';

const args = JSON.parse(readFileSync(new URL('./chromium.json', import.meta.url), 'utf8'));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
const [base, out, other] = process.argv.slice(2);
if (base === 'pixels') {
  const [a, b] = [out, other].map((f) => `data:image/png;base64,${readFileSync(f).toString('base64')}`);
  const count = await page.evaluate(
    async (urls) => {
      const [x, y] = await Promise.all(
        urls.map(async (url) => {
          const image = await createImageBitmap(await (await fetch(url)).blob());
          const canvas = new OffscreenCanvas(image.width, image.height).getContext('2d');
          canvas.drawImage(image, 0, 0);
          return canvas.getImageData(0, 0, image.width, image.height);
        }),
      );
      if (x.width !== y.width || x.height !== y.height) return -1;
      let n = 0;
      for (let i = 0; i < x.data.length; i += 4) n += [0, 1, 2].some((k) => Math.abs(x.data[i + k] - y.data[i + k]) > 2);
      return n;
    },
    [a, b],
  );
  console.log(count);
  await browser.close();
  process.exit(0);
}
const session = await (await page.request.post(`${base}/api/v1/session`, { data: { email: 'ilse@nighttram.example', password: 'last tram home' } })).json();
const p = `${base}/api/v1/productions/${session.productions[0].id}`;
const of = async (list) =>
  (await (await page.request.get(`${p}/${list}`)).json()).sort((a, b) => (a.name ?? a.label ?? '').localeCompare(b.name ?? b.label ?? ''));
const [pen] = await of('pens');
const brushes = await of('brushes');
const deliveries = await of('deliveries');
const [profile] = (await of('profiles')).sort((a, b) => a.artist.localeCompare(b.artist) || a.tablet.localeCompare(b.tablet));
const places = {
  desk: '/',
  pens: '/pens',
  pen: `/pens/${pen.id}`,
  'new pen': '/pens/new',
  'new sheet': '/pens/sheet',
  tablets: '/tablets',
  profile: `/tablets/${profile.id}`,
  transfer: '/tablets/transfer',
  'warm-up': '/tablets/warm-up',
  brushes: '/brushes',
  proof: '/brushes/proof',
  paths: '/brushes/paths',
  trials: '/brushes/trials',
  guides: '/guides',
  checks: '/checks',
  team: '/team',
  working: '/team?name=dov&role=contour',
  members: '/members',
  log: '/log',
  archive: '/archive',
};
brushes.forEach((b, i) => {
  places[`bench ${i}`] = `/brushes/${b.id}`;
});
deliveries.forEach((d, i) => {
  places[`delivery ${i}`] = `/checks/${d.id}`;
});
for (const [name, path] of Object.entries(places)) {
  await page.goto(base + path);
  await page.waitForLoadState('networkidle');
  await page.evaluate(() => document.fonts.ready);
  await page.waitForTimeout(900);
  // Times of the day are hidden; days are the same on both sides.
  await page.evaluate(() => {
    const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    while (walk.nextNode()) walk.currentNode.data = walk.currentNode.data.replace(/\d\d:\d\d(:\d\d)?/g, 'time');
  });
  await page.screenshot({ path: `${out}/${name}.png`, animations: 'disabled', caret: 'hide', fullPage: true });
}
await browser.close();
