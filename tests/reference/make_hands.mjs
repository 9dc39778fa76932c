// Makes tests/reference/hands: ink drawings by two illustrators' hands, with blacks, white fills and dry brush, rendered by Debian's Chromium.
//
//   cd $(mktemp -d) && npm i --legacy-peer-deps --ignore-scripts react@18.3.1 react-dom@18.3.1 react-peeps@0.1.10 react-open-doodles@1.0.5 \
//     playwright-core@1.64.1 && node .../tests/reference/make_hands.mjs .../tests/reference/hands
//
// The drawings are those of the packages react-open-doodles and react-peeps (both MIT; for the tests only).
import { createRequire } from 'node:module';

const here = createRequire(`${process.cwd()}/package.json`);
const { createElement: h } = here('react');
const { renderToStaticMarkup } = here('react-dom/server');
const doodles = here('react-open-doodles');
const peeps = here('react-peeps');
const { chromium } = here('playwright-core');

const plain = { strokeColor: '#000000', backgroundColor: '#ffffff', viewBox: { x: '0', y: '0', width: '850', height: '1200' } };
const of = (hair, body) => ({ ...plain, hair, body, accessory: 'None', facialHair: 'None' });
const chosen = ['Coffee', 'Dancing', 'Levitate', 'Loving', 'Meditating', 'Plant', 'SittingReading', 'Strolling'];
const busts = [of('Afro', 'ArmsCrossed'), of('FlatTop', 'ShirtFilled'), of('LongAfro', 'SweaterDots'), of('Beanie', 'Turtleneck')];
const all = [
  ...chosen.map((n) => [n.toLowerCase(), 1024, 768, h(doodles[`${n}Doodle`], { accent: '#ffffff', ink: '#000000' })]),
  ...busts.map((p, i) => [`bust-${i}`, 850, 1200, h(peeps.default, { face: Object.keys(peeps.Face)[3 * i], ...p })]),
];

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage();
for (const [name, width, height, drawing] of all) {
  await page.setViewportSize({ width, height });
  const svg = renderToStaticMarkup(drawing).replace('<svg', `<svg width="${width}" height="${height}"`);
  await page.setContent(`<body style="margin:0;background:white">${svg}</body>`);
  await page.screenshot({ path: `${process.argv[2]}/${name}.png` });
}
await browser.close();
