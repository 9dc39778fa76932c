// The bench by hand and by keys: every handle changes the line, says the mm, is undone, and is kept; and the browser's ink is
// the program's own.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { bench, field, open, reach, type } from './onBench';

test('knots answer to arrow keys and to typing, and never cross', async ({ page }) => {
  await bench(page, 'by keys', 'fineliner 0.5');
  await open(page, 'Weight');
  const middle = page.getByRole('slider', { name: 'width at effort 0.5' });
  const width = field(page, 'width in mm at effort 0.5');
  const before = Number(await width.inputValue());
  await middle.focus();
  await page.keyboard.press('ArrowDown');
  const [above, below] = [
    Number(await field(page, 'width in mm at effort 0.75').inputValue()),
    Number(await field(page, 'width in mm at effort 0.25').inputValue()),
  ];
  // Both are shown to a thousandth of a mm.
  expect(Math.abs(Number(await width.inputValue()) - Math.max(below, before - 0.005))).toBeLessThan(0.0011);
  // Shift takes ten steps at once, and stops at the neighbour: the curve never falls.
  for (let i = 0; i < 12; i++) await page.keyboard.press('Shift+ArrowUp');
  expect(Number(await width.inputValue())).toBeCloseTo(above, 3);
  await type(page, 'width in mm at effort 1', '2,5');
  await expect(await reach(page, 'width in mm at effort 1')).toHaveValue('2.500');
  // What is no number stays where it was typed and says so; Escape puts back what was there.
  await type(page, 'width in mm at effort 1', 'thick');
  await expect(page.locator('.figure-wrong')).toHaveText('type a number');
  await field(page, 'width in mm at effort 1').press('Escape');
  await expect(await reach(page, 'width in mm at effort 1')).toHaveValue('2.500');
  // All of it is undone, step by step, to where it began.
  while (await page.getByRole('button', { name: 'Undo' }).isEnabled()) await page.getByRole('button', { name: 'Undo' }).click();
  expect(Number(await width.inputValue())).toBeCloseTo(before, 3);
  await expect(page.getByText('not saved')).toHaveCount(0);
});

test('a draft of which one part cannot be saved says so beside it, and everything else of it is saved', async ({ page }) => {
  await bench(page, 'half saved');
  const id = page.url().split('/').at(-1);
  const session = await (await page.request.get('/api/v1/session')).json();
  const draft = async () => (await (await page.request.get(`/api/v1/productions/${session.productions[0].id}/brushes/${id}`)).json()).draft;
  // What the page would never send is bent on its way, so that the server refuses it.
  await page.route('**/draft', async (route) => {
    const body = route.request().postDataJSON();
    if (body.brush?.edge?.softness_mm === 0.5) body.brush.edge.softness_mm = -1;
    await route.continue({ postData: JSON.stringify(body) });
  });
  await type(page, 'softness in mm', '0.5');
  const says = page.getByRole('region', { name: 'Edge' }).getByRole('alert');
  await expect(says).toContainText(/softness, raggedness and correlation are 0 or more.*everything else is/);
  await type(page, 'opacity at no effort in per cent', '40');
  await expect.poll(async () => (await draft())?.opacity?.floor).toBe(0.4);
  expect((await draft()).edge?.softness_mm ?? 0).toBe(0);
  await expect(page.getByRole('group', { name: 'parts of the brush' }).getByRole('button', { name: /^Edge/ })).toContainText('not saved');
  await type(page, 'softness in mm', '0.3');
  await expect.poll(async () => (await draft())?.edge?.softness_mm).toBe(0.3);
  await expect(page.getByText('not saved', { exact: true })).toHaveCount(0);
});

test('pressed twice, one brush is made and one version saved; nothing is narrower than the least width', async ({ page }) => {
  await page.goto('/');
  await page.locator('.figure-row', { hasText: 'Dov Tarrant' }).getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('navigation').getByRole('link', { name: 'Brushes' }).click();
  await page.getByLabel('Name').fill('made once');
  await page.getByRole('button', { name: 'Make brush' }).dblclick();
  await expect(page.getByRole('heading', { name: 'made once' })).toBeVisible();
  const session = await (await page.request.get('/api/v1/session')).json();
  const brushes = await (await page.request.get(`/api/v1/productions/${session.productions[0].id}/brushes`)).json();
  expect(brushes.filter((b: { name: string }) => b.name === 'made once')).toHaveLength(1);
  await type(page, 'least width in mm', '101');
  await expect(page.locator('.figure-wrong')).toContainText('100');
  await type(page, 'least width in mm', '0.4');
  await page.getByRole('button', { name: /Save as version 2/ }).dblclick();
  await expect(page.locator('.thread')).toContainText('least width');
  await expect(page.getByRole('button', { name: /Save as version 3/ })).toBeDisabled();
});

test('tapers, nib and smoothing are added, set, and said when they do nothing', async ({ page }) => {
  await bench(page, 'all parts', 'flexible steel nib');
  await open(page, 'Lead-out');
  await page.getByRole('button', { name: 'Lead-out: add' }).click();
  await type(page, 'Lead-out length in mm', '12');
  await type(page, 'Lead-out share in per cent', '50');
  await type(page, 'Lead-out tip width in mm', '0.02');
  await type(page, 'Lead-out shape', '1.3');
  await open(page, 'Lead-in');
  await page.getByRole('button', { name: 'Lead-in: add' }).click();
  await open(page, 'Nib');
  await expect(page.getByText('As wide in every direction: an angle would have no effect.')).toBeVisible();
  await (await reach(page, 'shape of the nib')).selectOption('ellipse');
  await type(page, 'breadth over length', '0.3');
  await type(page, 'nib angle in degrees', '-20');
  await (await reach(page, 'nib angle fixed to')).selectOption('stylus');
  await (await reach(page, 'smoothing of position')).selectOption('adaptive');
  // What it costs is said by the hand's own strokes.
  await expect(page.getByText(/^On your own strokes: \d+ ms/)).toBeVisible();
  await type(page, 'filter when slow in Hz', '2');
  await page.getByRole('button', { name: /Save as version 2/ }).click();
  await expect(page.getByText(/version 2 · matched/)).toBeVisible();
  // What changed is said in words in the thread.
  await expect(page.locator('.thread')).toContainText('nib, lead-in, lead-out, smoothing');
  await page.reload();
  await expect(await reach(page, 'Lead-out length in mm')).toHaveValue('12.0');
  await expect(await reach(page, 'breadth over length')).toHaveValue('0.30');
  await expect(await reach(page, 'nib angle fixed to')).toHaveValue('stylus');
  await expect(await reach(page, 'filter when slow in Hz')).toHaveValue('2.0');
  // A number that cannot be is refused with what it may be, and the page stays as it is.
  await type(page, 'breadth over length', '3');
  await expect(page.locator('.figure-wrong')).toHaveText('0.01 to 1');
  await field(page, 'breadth over length').press('Escape');
  await expect(field(page, 'breadth over length')).toHaveValue('0.30');
  await expect(page.locator('.figure-wrong')).toHaveCount(0);
  await open(page, 'Lead-in');
  await page.getByRole('button', { name: 'Lead-in: set to none' }).click();
  await expect(page.getByText('None: the line starts as wide as the effort says.')).toBeVisible();
});

test('every part is compared with the pen, worst first, and is matched or locked by itself', async ({ page }) => {
  await bench(page, 'whole pen', 'soft brush pen, whole sheet');
  // As through no tablet of one's own: the warm-up that the brush was matched through.
  await page.getByLabel('the tablet that you draw on').selectOption({ label: 'no profile: raw pressure' });
  const part = page.locator('.part');
  for (const name of ['Weight', 'Nib', 'Pooling']) {
    await open(page, name);
    await expect(part).toContainText(/alike: /);
  }
  await open(page, 'Lead-in');
  await expect(part).toContainText('on landings');
  // The exercise that shows a part lies in the lanes, tip on tip.
  await page.getByRole('button', { name: 'flick', exact: true }).click();
  await expect(page.locator('.lane', { hasText: 'Pen' }).first()).toContainText('flick out, tip on tip');
  await page.getByRole('button', { name: 'ramp', exact: true }).click();
  await expect(page.locator('.lane', { hasText: 'Brush' }).first()).toContainText('the hand’s, inked');
  // What of the difference is the hand's on the stroke that is shown is said.
  await page.getByRole('button', { name: 'fast', exact: true }).click();
  await expect(page.locator('.lane', { hasText: 'Difference' })).toContainText(/this stroke: drawn at \d+ mm\/s, the pen’s at \d+/);
  await page.getByRole('button', { name: 'normal', exact: true }).click();
  await expect(page.locator('.lane', { hasText: 'Difference' })).not.toContainText('drawn at');
  // Taken away, a part differs; the others stay as they are.
  await open(page, 'Pooling');
  await page.getByRole('button', { name: 'Pooling: set to none' }).click();
  await expect(part).toContainText(/differs: a held dot is [\d.]+ of the line smaller/);
  await expect(page.getByRole('button', { name: /^Pooling differs/ })).toBeVisible();
  await open(page, 'Pace');
  await page.getByRole('button', { name: 'Pace: set to none' }).click();
  await page.getByRole('button', { name: 'Pace: lock' }).click();
  await expect(page.getByRole('button', { name: 'Pace: match this part' })).toBeDisabled();
  await open(page, 'Pooling');
  await page.getByRole('button', { name: 'Pooling: match this part' }).click();
  await expect(part).toContainText(/alike: /);
  await open(page, 'Pace');
  await expect(part).toContainText('None: as wide at every speed');
  await page.getByRole('button', { name: 'Match unlocked parts' }).click();
  await expect(page.getByRole('button', { name: 'Match unlocked parts' })).toBeEnabled();
  await expect(part).toContainText('None: as wide at every speed');
  await page.getByRole('button', { name: 'Pace: unlock' }).click();
  await page.getByRole('button', { name: 'Match all parts' }).click();
  await expect(field(page, 'width when fast')).toBeVisible();
  // Smoothing has no pen to be compared with: what a match did of it, and why, stands in its card.
  await open(page, 'Smoothing');
  await expect(part).toContainText(/Matched: .* ms behind\. On this tablet|The last match left it as it was/);
  await page.getByRole('button', { name: 'Smoothing: lock' }).click();
  await expect(page.getByRole('button', { name: 'Smoothing: match this part' })).toBeDisabled();
  await page.getByRole('button', { name: 'Smoothing: unlock' }).click();
  await open(page, 'Pace');
  // A control without effect says why.
  await field(page, 'what drives the width').selectOption('effort');
  await expect(part).toContainText('No effect: the width is driven by effort alone');
  await open(page, 'Edge');
  await page.getByRole('button', { name: 'Use the pen’s own strip' }).click();
  await expect(part).toContainText(/The strip of the real line.*Its ends are off by \d+ µm/);
});

test('at 1280 by 800 lanes, tiles, the open part and the try lane are seen together, and at 1024 by 768 too', async ({ page }) => {
  for (const [width, height] of [
    [1280, 800],
    [1024, 768],
  ] as const) {
    await page.setViewportSize({ width, height });
    await bench(page, `at ${width}`, 'flexible steel nib');
    await open(page, 'Weight');
    const seen = async (what: string) => (await page.locator(what).first().boundingBox()) as { y: number; height: number };
    const [part, lane, tiles] = [await seen('.part'), await seen('.try-lane'), await seen('.tiles')];
    // Nothing is covered, nothing lies under the window's end, nothing has to be scrolled to.
    expect(tiles.y + tiles.height).toBeLessThanOrEqual(lane.y + 1);
    const knot = (await page.getByRole('slider', { name: 'width at effort 0', exact: true }).boundingBox()) as { y: number; height: number };
    expect(knot.y + knot.height).toBeLessThanOrEqual(lane.y + 1);
    expect(part.y).toBeGreaterThan(0);
    expect(lane.y + lane.height).toBeLessThanOrEqual(height + 1);
    await page.locator('#member').click();
    await page.getByRole('button', { name: 'Sign out' }).click();
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  }
});

test('lanes follow the effort that is asked for, and a brush without a pen says what it lacks', async ({ page }) => {
  await bench(page, 'by effort', 'soft brush pen');
  const pen = page.locator('.lane', { hasText: 'Pen' }).first();
  const seen: number[] = [];
  for (const effort of ['feather', 'normal', 'hardest']) {
    await page.getByRole('button', { name: effort, exact: true }).click();
    await expect(pen).toContainText(`${effort} effort`);
    seen.push(Number(((await pen.textContent()) ?? '').match(/([\d.]+) mm/)?.[1]));
  }
  expect(seen[0]).toBeLessThan(seen[1] as number);
  expect(seen[1]).toBeLessThan(seen[2] as number);
  await page.locator('#member').click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await bench(page, 'out of nothing');
  await page.getByLabel('the tablet that you draw on').selectOption({ label: 'no profile: raw pressure' });
  await expect(page.getByText('no line at this effort')).toBeVisible();
  await expect(page.getByText('a ruled stand-in, no warm-up')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Match all parts' })).toHaveCount(0);
});

test('the try lane inks by mouse, pen and simulated hand, re-inks with every change, and takes strokes out', async ({ page }) => {
  await bench(page, 'tried');
  const lane = page.getByLabel('try lane', { exact: true });
  const ink = () =>
    lane.evaluate((lane: HTMLCanvasElement) => {
      // What is being drawn lies on a sheet over what has been drawn.
      const sheets = [...(lane.parentElement?.querySelectorAll('canvas') ?? [])];
      const data = sheets.flatMap((c) => [...(c.getContext('2d')?.getImageData(0, 0, c.width, c.height).data ?? [])]);
      let sum = 0;
      for (let i = 3; i < data.length; i += 4) sum += (data[i] ?? 0) / 255;
      return Math.round(sum);
    });
  expect(await ink()).toBe(0);
  await page.getByRole('button', { name: 'Add simulated strokes' }).click();
  await expect.poll(ink).toBeGreaterThan(500);
  const first = await ink();
  await open(page, 'Weight');
  await page.getByRole('slider', { name: 'width at effort 1' }).focus();
  await page.keyboard.press('Shift+ArrowUp');
  await expect.poll(ink).toBeGreaterThan(first);
  const before = await ink();
  const box = (await lane.boundingBox()) as { x: number; y: number };
  await page.mouse.move(box.x + 1000, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + 1080, box.y + 130, { steps: 25 });
  // It is inked while it is drawn.
  expect(await ink()).toBeGreaterThan(before);
  await page.mouse.up();
  await expect.poll(ink).toBeGreaterThan(before);
  await page.getByRole('button', { name: 'Remove last stroke' }).click();
  await expect.poll(ink).toBe(before);
});

const LEAF = 'M0 0 C 10 -8 30 -8 40 0 C 30 8 10 8 0 0 Z';
const KINDS = [
  { kind: 'swept' },
  { kind: 'shaped', ends: 'stretch', shape_path: LEAF },
  { kind: 'shaped', ends: 'keep', shape_path: LEAF, caps: [0.2, 0.3], break_over_deg: 50 },
  { kind: 'dry-brush', hairs: 12, spread: 0.5, snap: 0.4, ink_held: 1 },
  { kind: 'pixel' },
];
test('the browser’s ink is the command’s, curve for curve, whatever the stroke kind', async ({ page }) => {
  const folder = mkdtempSync(join(tmpdir(), 'ink-'));
  const brushes = KINDS.map((stroke) => ({
    format: 'eddymist/brush',
    version: 1,
    name: [stroke.kind, stroke.ends].filter(Boolean).join(' '),
    nib: { shape: 'ellipse', breadth: 0.4, angle_deg: 30 },
    weight: [
      [0, 0.2],
      [0.5, 0.6],
      [1, 1.4],
    ],
    lead_out: { length_mm: 8, share: 0.4, tip_width_mm: 0.05, shape: 0.8 },
    smoothing: { position: { kind: 'adaptive', min_cutoff_hz: 2, speed_coefficient: 0.05 } },
    edge: stroke.kind === 'swept' ? {} : { raggedness_um: 12, correlation_um: 200 },
    stroke,
    seed: 7,
  }));
  const points = Array.from({ length: 160 }, (_, i) => {
    const u = i / 159;
    return {
      t: 6 * i,
      x: Number((10 + 70 * u).toFixed(4)),
      y: Number((20 + 9 * Math.sin(7 * u)).toFixed(4)),
      f: Number((0.1 + 0.8 * Math.sin(Math.PI * u)).toFixed(6)),
    };
  });
  const trace = points.map((p) => `${p.x} ${p.y} ${p.f} ${p.t}`).join(', ');
  const channels = ['X" units="mm', 'Y" units="mm', 'F', 'T" units="ms'].map((c) => `<channel name="${c}"/>`).join('');
  const [strokes, out] = [join(folder, 's.inkml'), join(folder, 'o.svg')];
  writeFileSync(strokes, `<ink><traceFormat>${channels}</traceFormat><trace>${trace}</trace></ink>`);
  const native = brushes.map((brush) => {
    const file = join(folder, 'b.json');
    writeFileSync(file, JSON.stringify(brush));
    execFileSync(process.env.EDDYMIST_BIN ?? '../target/release/eddymist', ['ink', '--brush', file, '--strokes', strokes, '--out', out]);
    return readFileSync(out, 'utf8').match(/ d="([^"]+)"/)?.[1] ?? '';
  });
  await page.goto('/');
  const wasm = `/assets/${readdirSync('dist/assets').find((f) => f.endsWith('.wasm'))}`;
  const glue = readFileSync('engine/prebuilt/eddymist_wasm.js', 'utf8');
  // The page's own policy lets no foreign script in: the module is run beside it.
  const blank = await page.context().newPage();
  const bytes = (await (await page.request.get(wasm)).body()).toString('base64');
  // A stamped tip has no outline: its ink is a picture, and pictures are held against one another.
  const tip = await blank.evaluate(() => {
    const c = Object.assign(document.createElement('canvas'), { width: 60, height: 40 });
    const d = c.getContext('2d');
    d?.ellipse(30, 20, 29, 14, 0, 0, 7);
    d?.fill();
    return c.toDataURL();
  });
  const stamped = { ...brushes[0], stroke: { kind: 'stamped', tip_png: tip, spacing: 0.2, size_range: 0.3, angle_range_deg: 20, stray: 0.1 } };
  const [file, picture] = [join(folder, 'b.json'), join(folder, 'o.png')];
  writeFileSync(file, JSON.stringify(stamped));
  execFileSync(process.env.EDDYMIST_BIN ?? '../target/release/eddymist', ['ink', '--brush', file, '--strokes', strokes, '--dpi', '600', '--out', picture]);
  const browser = await blank.evaluate(
    async ([source, bytes, brushes, samples]) => {
      const module = await import(URL.createObjectURL(new Blob([source], { type: 'text/javascript' })));
      await module.default({ module_or_path: Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0)) });
      return brushes.map((b) => new module.Engine(b, new Float64Array(), 600 / 25.4).paths(new Float64Array(samples), 1)[0] as string);
    },
    [glue, bytes, brushes.map((b) => JSON.stringify(b)), points.flatMap((p) => [p.t, p.x, p.y, p.f, Number.NaN, Number.NaN])] as [
      string,
      string,
      string[],
      number[],
    ],
  );
  const samples = points.flatMap((p) => [p.t, p.x, p.y, p.f, Number.NaN, Number.NaN]);
  const pictures = await blank.evaluate(
    async ([source, bytes, brush, samples, png]) => {
      const module = await import(URL.createObjectURL(new Blob([source], { type: 'text/javascript' })));
      await module.default({ module_or_path: Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0)) });
      const own = new module.Engine(brush, new Float64Array(), 600 / 25.4).picture(new Float64Array(samples), 1, 600 / 25.4);
      const bitmap = await createImageBitmap(new Blob([Uint8Array.from(atob(png), (c) => c.charCodeAt(0))]));
      const canvas = Object.assign(document.createElement('canvas'), { width: bitmap.width, height: bitmap.height });
      const d = canvas.getContext('2d');
      d?.drawImage(bitmap, 0, 0);
      const native = [...(d?.getImageData(0, 0, bitmap.width, bitmap.height).data ?? [])].filter((_, i) => i % 4 === 3);
      /** Ink, its middle, and how far it reaches, px. */
      const figures = (alpha: ArrayLike<number>, width: number) => {
        let [ink, x, y, wide] = [0, 0, 0, 0];
        for (let i = 0; i < alpha.length; i++) {
          const a = (alpha[i] ?? 0) / 255;
          [ink, x, y] = [ink + a, x + a * (i % width), y + a * Math.floor(i / width)];
        }
        for (let i = 0; i < alpha.length; i++) wide += ((alpha[i] ?? 0) / 255) * ((i % width) - x / ink) ** 2;
        return [ink, Math.sqrt(wide / ink)];
      };
      return [figures(native, bitmap.width), figures(own.alpha(), own.width)];
    },
    [glue, bytes, JSON.stringify(stamped), samples, readFileSync(picture).toString('base64')] as [string, string, string, number[], string],
  );
  const [[ink = 0, spread = 0] = [], [ownInk = 0, ownSpread = 0] = []] = pictures;
  expect(ink).toBeGreaterThan(10_000);
  expect(Math.abs(ownInk / ink - 1)).toBeLessThan(0.001);
  expect(Math.abs(ownSpread - spread)).toBeLessThan(0.02);
  const numbers = (d: string) => d.match(/-?\d+(\.\d+)?/g)?.map(Number) ?? [];
  for (const [k, brush] of brushes.entries()) {
    const [a, b] = [numbers(native[k] ?? ''), numbers(browser[k] ?? '')];
    expect(a.length, brush.name).toBeGreaterThan(60);
    expect(b.length, brush.name).toBe(a.length);
    // The last place of a sine may differ between the two machines; a micrometre does not.
    expect(Math.max(...a.map((v, i) => Math.abs(v - (b[i] ?? 0)))), brush.name).toBeLessThan(0.001);
  }
});
