// Around the bench: other stroke kinds drawn and tried, every exercise in the lanes, proof sheet, versions compared, blind proof, recipe,
// lines of an SVG inked, and the rack with its roll taken elsewhere and brought in.
import { readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { png } from './files';
import { bench, field, open, originOf, reach, type } from './onBench';

async function into(page: Page, who: string, place: string) {
  await page.goto('/');
  await page.locator('.figure-row', { hasText: who }).getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('navigation').getByRole('link', { name: place }).click();
}

const inked = (page: Page, label: string) =>
  page.getByLabel(label, { exact: true }).evaluate((live: HTMLCanvasElement) => {
    // Finished strokes lie on a sheet beneath the one of the stroke in hand.
    const c = live.parentElement?.querySelector<HTMLCanvasElement>('[data-ink]') ?? live;
    const data = c.getContext('2d')?.getImageData(0, 0, c.width, c.height).data ?? [];
    let sum = 0;
    for (let i = 3; i < data.length; i += 4) sum += (data[i] ?? 0) / 255;
    return Math.round(sum);
  });

test('every stroke kind is inked; its shape is drawn on the page, and what has no effect says so', async ({ page }) => {
  await bench(page, 'laid');
  await page.getByRole('button', { name: 'Add simulated strokes' }).click();
  await open(page, 'Stroke kind');
  const tip = field(page, 'how the tip works');
  const shape = page.getByLabel('a shape along the stroke');
  const ends = page.getByLabel('ends keep their length');
  await expect.poll(() => inked(page, 'try lane')).toBeGreaterThan(300);
  const swept = await inked(page, 'try lane');
  await shape.check();
  await expect(page.getByText('No effect now: the nib’s shape and angle.')).toBeVisible();
  await expect(page.getByText(/bends of what lies in the try lane stretch the shape by up to \d+ %/)).toBeVisible();
  await expect.poll(() => inked(page, 'try lane')).not.toBe(swept);
  const bent = await inked(page, 'try lane');
  // A point moved by keys changes the ink, and is undone.
  const point = page.getByRole('button', { name: 'point 3', exact: true });
  await point.focus();
  for (let i = 0; i < 4; i++) await point.press('Shift+ArrowUp');
  await expect.poll(() => inked(page, 'try lane')).toBeGreaterThan(bent + 20);
  for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => inked(page, 'try lane')).toBe(bent);
  await ends.check();
  await type(page, 'corner in degrees at which the shape breaks', '60');
  await type(page, 'start of the shape in per cent', '90');
  await expect(page.getByText(/shares of the shape's length, together no more than 1/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await tip.selectOption('dry-brush');
  await type(page, 'ink held', '0.5');
  await expect.poll(() => inked(page, 'try lane')).toBeGreaterThan(20);
  // A tip that comes in from a picture is laid level.
  await tip.selectOption('stamped');
  await page.getByLabel('Import tip…').setInputFiles({
    name: 'tip.svg.png',
    mimeType: 'image/png',
    buffer: Buffer.from(
      await page.evaluate(() => {
        const c = document.createElement('canvas');
        [c.width, c.height] = [120, 120];
        const d = c.getContext('2d');
        d?.translate(60, 60);
        d?.rotate(-Math.PI / 6);
        d?.fillRect(-50, -8, 100, 16);
        return c.toDataURL().split(',')[1] ?? '';
      }),
      'base64',
    ),
  });
  await expect(page.getByText('Levelled: turned by -30.0°')).toBeVisible();
  // The tip is repaired on the page, and a tooth drawn for it: less ink than without.
  await field(page, 'draw on the page').selectOption('tip');
  await page.getByRole('button', { name: 'Edit current tip' }).click();
  await expect(page.getByText('Its border was traced')).toBeVisible();
  await page.getByRole('button', { name: 'Use this tip' }).click();
  await expect.poll(() => inked(page, 'try lane')).toBeGreaterThan(100);
  const bare = await inked(page, 'try lane');
  await field(page, 'draw on the page').selectOption('paper tooth');
  await page.getByRole('button', { name: 'Use this paper tooth' }).click();
  await expect(page.getByRole('button', { name: 'Light is high' })).toBeVisible();
  await expect.poll(() => inked(page, 'try lane')).toBeLessThan(0.97 * bare);
  // A shape comes from a scan: its border is traced; ends that keep their length take one piece, the largest.
  await tip.selectOption('swept');
  await shape.check();
  await ends.check();
  const scan = png(240, 120, (x, y) => Math.hypot((x - 110) / 90, (y - 60) / 20) < 1 || Math.hypot(x - 225, y - 20) < 9);
  await page.getByLabel('shape from a file').setInputFiles({ name: 'leaf.png', mimeType: 'image/png', buffer: scan });
  await expect(page.getByText(/Levelled: turned by .*one piece is needed here, the largest was taken/)).toBeVisible();
  await expect.poll(() => inked(page, 'try lane')).toBeGreaterThan(100);
  await tip.selectOption('pixel');
  await expect(page.getByText(/No effect now: weight, nib, tapers/)).toBeVisible();
  await page.getByRole('button', { name: /Save as version 2/ }).click();
  await expect(page.locator('.thread')).toContainText('stroke kind');
  // Two versions on the same strokes.
  await page.getByRole('link', { name: 'Compare two' }).click();
  await expect(page.getByRole('heading', { name: 'laid: version 1 and version 2' })).toBeVisible();
  await expect(page.getByText('what changed: stroke kind')).toBeVisible();
  await expect(page.getByLabel('both versions laid over one another')).toBeVisible();
});

test('the lanes show every exercise, an earlier version under it, and the try lane another brush beside it', async ({ page }) => {
  // Through the profile that the brush was matched with, the demo's: other journeys keep warm-ups without dots and circles.
  await bench(page, 'every exercise', 'soft brush pen, whole sheet', 'Pia Lunde on the 16-inch pen display');
  await page.getByLabel('the tablet that you draw on').selectOption({ label: 'no profile: raw pressure' });
  const pen = page.locator('.lane', { hasText: 'Pen' }).first();
  for (const [button, says] of [
    ['slow', 'ruled slowly'],
    ['fast', 'ruled fast'],
    ['dots', 'dots, held'],
    ['fan', 'by direction drawn'],
    ['circle', 'round the circle'],
    ['hatching', /line by line.*coarseness \d/],
  ] as const) {
    await page.getByRole('button', { name: button, exact: true }).click();
    await expect(pen).toContainText(says);
    await expect(page.locator('.lane', { hasText: 'Brush' }).first()).toContainText(/\d\.\d{3} mm/);
  }
  await page.getByRole('button', { name: 'Compare in the lanes' }).click();
  await expect(page.getByText('version 1 compared')).toBeVisible();
  await page.getByRole('button', { name: 'Add simulated strokes' }).click();
  await expect(page.getByText(/tone \d+ % · coarseness [\d.]+/)).toBeVisible();
  await field(page, 'compare with').selectOption({ label: 'Fineliner for the tram' });
  await expect.poll(() => inked(page, 'the same strokes as another brush')).toBeGreaterThan(100);
  await page.getByRole('button', { name: 'zoom in' }).click();
  await expect(page.getByRole('button', { name: 'at 96 px to the inch' })).toHaveText('125 %');
  // The taper's handle is moved by keys where it is drawn.
  const before = Number(await (await reach(page, 'Lead-out length in mm')).inputValue());
  await page.getByRole('slider', { name: 'Lead-out: length' }).focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(field(page, 'Lead-out length in mm')).toHaveValue((before + 1).toFixed(1));
});

test('a blind proof is answered by keys and kept with its version; a recipe is worked out', async ({ page }) => {
  await bench(page, 'told apart?', 'soft brush pen, whole sheet');
  await page.getByRole('link', { name: 'Blind proof' }).click();
  await page.getByRole('button', { name: 'Begin with version 1' }).click();
  for (let i = 1; i <= 20; i++) {
    await expect(page.getByRole('heading', { name: `Line ${i} of 20` })).toBeVisible();
    await page.keyboard.press(i % 3 ? 'ArrowLeft' : 'ArrowRight');
  }
  await expect(page.getByText(/told apart.*\d+ of 20 were right/).first()).toBeVisible();
  await page.reload();
  await expect(page.getByText(/version 1: told apart/)).toBeVisible();
  await page.getByRole('link', { name: 'Back to the bench' }).click();
  await page.getByRole('link', { name: 'Recipe' }).click();
  // It serves before any sheet was inked, and says what it takes for granted.
  await expect(page.getByText(/Nothing was inked with that brush yet/)).toBeVisible();
  const link = (await page.getByRole('link', { name: /^Download ZIP/ }).getAttribute('href')) ?? '';
  const zip = await (await page.request.get(link)).body();
  for (const name of ['recipe.pdf', 'recipe.csv', 'tip.png', 'strip.png']) expect(zip.includes(name), name).toBe(true);
  await page.getByLabel('card of the other brush').selectOption({ label: 'flexible steel nib, a month on' });
  await expect(page.getByText(/Nothing was inked with that brush yet/)).toHaveCount(0);
  await expect(page.getByRole('heading', { name: 'Correction of the pressure' })).toBeVisible();
  await expect(page.locator('table').first().locator('tbody tr')).toHaveCount(4);
  await page.getByLabel('card inked with the recipe').selectOption({ label: 'chisel marker, whole sheet' });
  await expect(page.getByText(/width at hardest effort|sure change|changed/).first()).toBeVisible();
});

test('lines of an SVG are chosen, inked each in its way, and taken out as outlines and as strokes', async ({ page }) => {
  await into(page, 'Dov Tarrant', 'Brushes');
  await page.getByRole('link', { name: 'Ink over paths' }).click();
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40"><g id="tram" fill="none" stroke="#112233"><path d="M5 5 H55"/><path d="M5 15 H20"/></g><g id="bell" fill="none" stroke="#aa2200"><path d="M5 30 C 20 20 40 40 55 30"/></g></svg>`;
  await page.getByLabel('lines (SVG)').setInputFiles({ name: 'tram.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) });
  await expect(page.getByRole('heading', { name: '3 lines of tram.svg' })).toBeVisible();
  await page.getByLabel('choose by layer').selectOption({ label: 'bell (1)' });
  await expect(page.getByText('1 chosen')).toBeVisible();
  await page.getByRole('button', { name: 'add to it' }).click();
  await page.getByRole('button', { name: 'shorter', exact: true }).click();
  await expect(page.getByText('2 chosen')).toBeVisible();
  await page.getByLabel('pressure along the line').selectOption('rise');
  // The course is pulled on the line itself; one step back takes the whole pull.
  const middle = page.getByRole('slider', { name: 'effort at 50 % of the line' });
  await expect(middle).toHaveAttribute('aria-valuenow', '0.5');
  const at = (await middle.boundingBox()) as { x: number; y: number; width: number };
  await page.mouse.move(at.x + at.width / 2, at.y + at.width / 2);
  await page.mouse.down();
  await page.mouse.move(at.x + at.width / 2, at.y - 200, { steps: 5 });
  await page.mouse.up();
  await expect(middle).toHaveAttribute('aria-valuenow', '1');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(middle).toHaveAttribute('aria-valuenow', '0.5');
  await middle.press('ArrowUp');
  await expect(page.getByLabel('pressure along the line')).toHaveValue('own');
  await type(page, 'weight factor', '2');
  await page.getByRole('button', { name: 'Reverse lines' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Outlines (SVG)' }).click();
  const file = readFileSync(await (await download).path(), 'utf8');
  expect(file.match(/<path /g)).toHaveLength(3);
  const strokes = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Strokes (InkML)' }).click();
  expect(readFileSync(await (await strokes).path(), 'utf8').match(/<trace[ >]/g)).toHaveLength(3);
  await page.getByLabel('lines (SVG)').setInputFiles({ name: 'no.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg>') });
  await expect(page.getByText(/not well-formed XML/)).toBeVisible();
});

test('the rack is searched, tagged, proofed, taken elsewhere and brought in; the lead keeps the roll', async ({ page }) => {
  // A second try finds what the first one left on the rack.
  const name = `to be taken${test.info().retry || ''}`;
  await bench(page, name);
  await page.getByRole('navigation').getByRole('link', { name: 'Brushes' }).click();
  await type(page, `tags of ${name}`, `Whiskers, tail${test.info().retry || ''}`);
  await page.getByLabel('find brushes').fill(`tail${test.info().retry || ''}`);
  await expect(page.locator('.rack-link')).toHaveCount(1);
  await page.getByRole('link', { name: 'Proof sheet of these' }).click();
  await expect(page.getByLabel(`proof figures of ${name}, version 1`)).toBeVisible();
  const href = (await page.getByRole('link', { name: 'Download PDF, true size' }).getAttribute('href')) ?? '';
  const pdf = await (await page.request.get(href)).body();
  expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
  await page.goBack();
  const got = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export library' }).click();
  const path = await (await got).path();
  const library = JSON.parse(readFileSync(path, 'utf8'));
  expect(library.roll.map((r: { role: string }) => r.role)).toContain('contour');
  // One brush is changed, one is new, and one has a version that is not known.
  const mine = library.brushes.find((b: { brush: { name: string } }) => b.brush.name === name);
  mine.brush.weight[0][1] = 0.2;
  library.brushes.push({ brush: { ...mine.brush, name: `came along with ${name}` } });
  const file = join(tmpdir(), 'library.json');
  writeFileSync(file, JSON.stringify(library));
  await page.getByLabel('import library').setInputFiles(file);
  await expect(page.getByRole('button', { name: 'Decide 1 more' })).toBeDisabled();
  await page.getByLabel(`what becomes of ${name}`).selectOption('version');
  await page.getByRole('button', { name: 'Import brushes' }).click();
  await expect(page.getByText(/1 made, 1 new versions/)).toBeVisible();
  mine.brush.version = 2;
  writeFileSync(file, JSON.stringify(library));
  await page.getByLabel('import library').setInputFiles(file);
  await expect(page.getByText(/eddymist\/brush is of version 2, and this program reads up to version 1/)).toBeVisible();
  // An artist sees the roll; the lead changes it.
  await expect(page.getByLabel('weight factor of contour')).toBeDisabled();
  await page.locator('#member').click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await into(page, 'Ilse Marrow', 'Brushes');
  await type(page, 'weight factor of contour', '1.25');
  await page.getByRole('button', { name: 'inner line: earlier' }).click();
  await page.getByRole('button', { name: 'Save pen roll' }).click();
  await expect(page.getByRole('button', { name: 'Save pen roll' })).toHaveCount(0);
  await page.reload();
  await expect(page.getByLabel('weight factor of contour')).toHaveValue('1.25');
  await expect(page.locator('tbody tr').first()).toContainText('inner line');
});

test('a trial page is inked over its rough by line role, weighed while it is drawn, mended, and taken out', async ({ page }) => {
  await into(page, 'Dov Tarrant', 'Brushes');
  await page.getByRole('link', { name: 'Trial pages' }).click();
  await page
    .getByLabel('Rough (PNG, JPEG)')
    .setInputFiles({ name: 'bell.png', mimeType: 'image/png', buffer: png(800, 500, (x, y) => Math.abs(y - 250) < 3 && x > 100) });
  await page.getByRole('button', { name: 'Make trial page' }).click();
  // A rough that states no resolution is asked for it.
  await page.getByRole('button', { name: /^Use the page of/ }).click();
  await expect(page.getByRole('heading', { name: 'bell' })).toBeVisible();
  await expect(page.getByText('800 × 500 px')).toBeVisible();
  await expect(page.getByLabel('strength of the rough')).toBeEnabled();
  await page.getByRole('button', { name: 'one pixel of the page to one of the screen' }).click();
  const sheet = page.getByLabel('trial page', { exact: true });
  // Where the page's own pixels lie.
  const box = await originOf(sheet);
  const cdp = await page.context().newCDPSession(page);
  const pen = (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', x: number, y: number, force: number) =>
    cdp.send('Input.dispatchMouseEvent', {
      type,
      x: box.x + x,
      y: box.y + y,
      button: 'left',
      buttons: 1,
      clickCount: 1,
      pointerType: 'pen',
      force,
      tiltX: 10,
      tiltY: 20,
    });
  const draw = async (from: [number, number], to: [number, number], bow = 0, until = 40) => {
    await pen('mousePressed', ...from, 0.2);
    for (let i = 1; i <= until; i++) {
      const u = i / 40;
      await pen(
        'mouseMoved',
        from[0] + (to[0] - from[0]) * u,
        from[1] + (to[1] - from[1]) * u - bow * Math.sin(Math.PI * u),
        0.2 + 0.6 * Math.sin(Math.PI * u),
      );
    }
    if (until === 40) await pen('mouseReleased', ...to, 0);
  };
  await page.getByRole('button', { name: 'contour' }).click();
  await expect(sheet).toHaveCSS('cursor', 'crosshair');
  // What lies behind the pen stays while the stroke is drawn, whatever the page shows anew meanwhile: its weight stands beside it by then.
  const inked = () =>
    sheet.evaluate((c: HTMLCanvasElement) => {
      const data = c.getContext('2d')?.getImageData(0, 0, c.width, c.height).data ?? [];
      const columns = new Set<number>();
      for (let i = 3; i < data.length; i += 4) if ((data[i] ?? 0) > 128) columns.add(((i - 3) / 4) % c.width);
      return columns.size;
    });
  await draw([80, 100], [500, 140]);
  await expect(page.getByText('1 stroke ·')).toBeVisible();
  // The weight stands in the head, and on the line beside the pen.
  await expect(page.getByText(/^[\d.]+ px: (within|heavy|thin)$/)).toHaveCount(2);
  await draw([80, 200], [500, 240], 0, 20);
  const half = await inked();
  expect(half).toBeGreaterThan(150);
  await page.waitForTimeout(400);
  expect(await inked()).toBe(half);
  await pen('mouseReleased', 290, 220, 0);
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('1 stroke ·')).toBeVisible();
  await page.getByRole('button', { name: 'inner line' }).click();
  await page.getByRole('button', { name: 'arc' }).click();
  await draw([100, 300], [400, 300], 60);
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  // Chosen by pointing, made heavier, pulled, turned round; undone step by step.
  await page.getByRole('button', { name: 'choose strokes' }).click();
  await page.mouse.click(box.x + 290, box.y + 120);
  await expect(page.getByRole('heading', { name: '1 stroke chosen' })).toBeVisible();
  await type(page, 'weight factor of the strokes', '2');
  await page.getByRole('button', { name: 'Reverse strokes' }).click();
  await page.mouse.move(box.x + 290, box.y + 120);
  await page.mouse.down();
  await page.mouse.move(box.x + 290, box.y + 190, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByText('· Saved')).toBeVisible();
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  await expect(page.getByText('· Saved')).toBeVisible();
  await page.reload();
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  const svg = await (await page.request.get((await page.getByRole('link', { name: 'SVG', exact: true }).getAttribute('href')) ?? '')).text();
  expect(svg.match(/<g id="(contour|inner line)">/g)).toHaveLength(2);
  await page.getByRole('button', { name: 'Show file sizes' }).click();
  await expect(page.getByText(/each stroke for itself \d+ KiB; merged into one outline a pass \d+ KiB/)).toBeVisible();
});
