// The brush in hand on a trial page, from its bench and back; points of a drawn stroke there and of a line of a file: nudged, added, taken
// out, and the line's width pulled, by pointer and by keys; tapers of their own; all of it undone.
import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { originOf, type } from './onBench';
import { asMember, place, production, signIn } from './people';

type Sample = (number | null)[];

test('a brush goes from its bench to a trial page and back, and is in hand there', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await place(page, 'Brushes');
  await page.locator('.rack-link', { hasText: 'Brush pen for the stripes' }).click();
  await page.getByRole('link', { name: 'Trial page', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Back to the bench' })).toBeVisible();
  await page.getByRole('button', { name: 'Make empty page' }).click();
  const brush = page.getByLabel('brush', { exact: true });
  await expect(brush.locator('option:checked')).toHaveText('Brush pen for the stripes');
  await page.reload();
  await expect(brush.locator('option:checked')).toHaveText('Brush pen for the stripes');
  await brush.selectOption({ label: 'Fineliner for the tram' });
  await page.getByRole('link', { name: 'Bench', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Fineliner for the tram', exact: true })).toBeVisible();
});

test('one stroke is mended by its points', async ({ page }) => {
  const dov = await asMember('dov@nighttram.example');
  const p = await production(dov);
  const rack: { id: string; name: string; current_version: number }[] = await (await dov.get(`${p}/brushes`)).json();
  const brush = rack.find((b) => b.name === 'Fineliner for the tram');
  // A stroke with a bend in its middle, on a page of 160 × 100 mm.
  const samples = Array.from({ length: 81 }, (_, i): Sample => [i * 8, 20 + 1.2 * i, 50 + (i < 40 ? 0.25 * i : 0.25 * (80 - i)), 0.4, null, null]).flat();
  const stroke = { samples, brush_id: brush?.id, version: brush?.current_version, role: 'contour', colour: '#112233' };
  const body = { name: 'points', page: { width_px: 960, height_px: 600, px_per_mm: 6, strokes: [stroke] } };
  const { id } = await (await dov.post(`${p}/trials`, { data: body })).json();
  const kept = async (): Promise<Sample[]> => {
    const flat: Sample = (await (await dov.get(`${p}/trials/${id}`)).json()).page.strokes[0].samples;
    return Array.from({ length: flat.length / 6 }, (_, i) => flat.slice(6 * i, 6 * i + 6));
  };
  await signIn(page, 'Dov Tarrant');
  await page.goto(`/brushes/trials/${id}`);
  await page.getByRole('button', { name: 'choose strokes' }).click();
  const sheet = page.getByLabel('trial page', { exact: true });
  const at = await originOf(sheet);
  await page.mouse.click(at.x + at.scale * 44, at.y + at.scale * 55);
  const points = page.getByRole('group', { name: 'points of the stroke' });
  const point = (k: number) => points.getByRole('button', { name: new RegExp(`^point ${k} of `) });
  await expect(points.getByRole('button', { name: /^point / })).toHaveCount(3);
  await expect(point(2)).toHaveAccessibleName(/point 2 of 3, 0\.\d\d mm wide/);
  // By keys: ten steps of ten px up.
  const saved = (what: (s: Sample[]) => number) => expect.poll(async () => what(await kept()));
  const middle = (s: Sample[]) => s[40]?.[2] as number;
  await point(2).focus();
  for (let k = 0; k < 10; k++) await page.keyboard.press('Shift+ArrowUp');
  await saved(middle).toBeCloseTo(60 - 100 / at.scale, 1);
  // Its neighbours stayed, and half way there it came along by (1 − ¼)² of the way.
  expect([(await kept())[0]?.[2], (await kept())[80]?.[2]]).toEqual([50, 50]);
  // Wider by the plus key: by pressing harder there alone.
  const wide = async () => Number(/([\d.]+) mm wide/.exec((await point(2).getAttribute('aria-label')) ?? '')?.[1]);
  const before = await wide();
  for (let k = 0; k < 4; k++) await page.keyboard.press('+');
  expect(await wide()).toBeGreaterThan(before);
  await saved((s) => s[40]?.[3] as number).toBeGreaterThan(0.4);
  expect((await kept())[0]?.[3]).toBeCloseTo(0.4, 6);
  // By pointer: a point between the first two is taken hold of and pulled; there are four then.
  const drag = async (page: Page, from: [number, number], to: [number, number]) => {
    await page.mouse.move(...from);
    await page.mouse.down();
    await page.mouse.move(...to, { steps: 6 });
    await page.mouse.up();
  };
  const centre = async (name: string) => {
    const box = (await points.getByRole('button', { name }).boundingBox()) as { x: number; y: number; width: number; height: number };
    return [box.x + box.width / 2, box.y + box.height / 2] as [number, number];
  };
  const was = (await kept())[20]?.[2] as number;
  const from = await centre('add a point after point 1');
  await drag(page, from, [from[0], from[1] + 30]);
  await expect(points.getByRole('button', { name: /^point / })).toHaveCount(4);
  await saved((s) => s[20]?.[2] as number).toBeCloseTo(was + 30 / at.scale, 1);
  // The width is pulled by its square on the line.
  const square = points.getByLabel('width at point 2').first();
  const box = (await square.boundingBox()) as { x: number; y: number };
  const thin = (await kept())[20]?.[3] as number;
  const off = (await centre('point 2 of 4')) as [number, number];
  const away = Math.hypot(box.x + 5 - off[0], box.y + 5 - off[1]);
  const k = (away + 6) / away;
  await drag(page, [box.x + 5, box.y + 5], [off[0] + k * (box.x + 5 - off[0]), off[1] + k * (box.y + 5 - off[1])]);
  await saved((s) => s[20]?.[3] as number).toBeGreaterThan(thin);
  // A point is taken out, and all of it is undone.
  await point(3).focus();
  await page.keyboard.press('Delete');
  await expect(points.getByRole('button', { name: /^point / })).toHaveCount(3);
  for (let i = 0; i < 20; i++)
    await page
      .getByRole('button', { name: 'Undo', exact: true })
      .click({ force: true, timeout: 2000 })
      .catch(() => {});
  await saved(middle).toBeCloseTo(60, 3);
  expect((await kept()).map((s) => s[3])).toEqual(Array(81).fill(0.4));
});

test('a drawn stroke has tapers of its own, and gives them back', async ({ page }) => {
  const dov = await asMember('dov@nighttram.example');
  const p = await production(dov);
  const rack: { id: string; name: string; current_version: number }[] = await (await dov.get(`${p}/brushes`)).json();
  const brush = rack.find((b) => b.name === 'Fineliner for the tram');
  const samples = Array.from({ length: 81 }, (_, i): Sample => [i * 8, 20 + 1.2 * i, 50, 0.4, null, null]).flat();
  const stroke = { samples, brush_id: brush?.id, version: brush?.current_version, role: 'contour', colour: '#112233' };
  const page_of = (tapers?: object) => ({ width_px: 960, height_px: 600, px_per_mm: 6, strokes: [{ ...stroke, tapers }] });
  const wrong = await dov.post(`${p}/trials`, { data: { name: 'tapers', page: page_of({ lead_in_mm: -1 }) } });
  expect([wrong.status(), (await wrong.json()).detail]).toEqual([422, "a stroke's own tapers are 0 to 1000 mm long"]);
  const bent = { ...page_of(), strokes: [{ ...stroke, course: 'bent' }] };
  expect((await dov.post(`${p}/trials`, { data: { name: 'tapers', page: bent } })).status()).toBe(422);
  const { id } = await (await dov.post(`${p}/trials`, { data: { name: 'tapers', page: page_of() } })).json();
  /** Widths along the stroke as it goes out, mm. */
  const widths = async () => widthsOf(await (await dov.get(`${p}/trials/${id}/out/inkml`)).text());
  const before = await widths();
  await signIn(page, 'Dov Tarrant');
  await page.goto(`/brushes/trials/${id}`);
  await page.getByRole('button', { name: 'choose strokes' }).click();
  const at = await originOf(page.getByLabel('trial page', { exact: true }));
  await page.mouse.click(at.x + at.scale * 60, at.y + at.scale * 50);
  await type(page, 'lead-out of the strokes', '48');
  expect(before[60]).toBeGreaterThan(0.2);
  await expect.poll(async () => ((await widths())[60] ?? 1) / (before[60] ?? 1)).toBeLessThan(0.8);
  expect((await widths())[20]).toBeCloseTo(before[20] ?? 0, 6);
  await page.getByRole('button', { name: 'lead-out as the brush has it' }).click();
  await expect.poll(widths).toEqual(before);
  // Pressure of its own: rising along it, whatever the pen did.
  await page.getByLabel('pressure along the line').selectOption({ label: 'rise: full at the end' });
  await expect.poll(async () => ((await widths())[60] ?? 0) / ((await widths())[16] ?? 1)).toBeGreaterThan(1.1);
  await expect(page.getByLabel('width at point 1')).toHaveCount(0);
  await page.getByLabel('pressure along the line').selectOption({ label: 'as it was drawn' });
  await expect.poll(widths).toEqual(before);
});

test('the points of a line of a file are nudged, its tapers set, and it goes out so', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/brushes/paths');
  const svg =
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40"><path fill="none" stroke="#123" d="M5 30 L30 10 L55 30"/></svg>';
  await page.getByLabel('lines (SVG)').setInputFiles({ name: 'roof.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) });
  await page.getByRole('button', { name: 'All', exact: true }).click();
  const out = async () => {
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Strokes (InkML)' }).click();
    return readFileSync(await (await download).path(), 'utf8');
  };
  const highest = (inkml: string) => Math.min(...tracesOf(inkml).map((s) => s[1] ?? 0));
  const as_read = await out();
  expect(highest(as_read)).toBeCloseTo(10, 1);
  await page.getByRole('button', { name: 'points', exact: true }).click();
  const points = page.getByRole('group', { name: 'points of the stroke' }).getByRole('button', { name: /^point / });
  await expect(points).toHaveCount(3);
  await points.nth(1).focus();
  for (let k = 0; k < 6; k++) await page.keyboard.press('Shift+ArrowUp');
  await type(page, 'lead-out of the strokes', '40');
  const nudged = await out();
  expect(highest(nudged)).toBeLessThan(9);
  const [last, was] = [widthsOf(nudged), widthsOf(as_read)];
  expect(last.at(-8)).toBeLessThan(0.95 * (was.at(-8) ?? 0));
  await page.reload();
  expect(await out()).toBe(nudged);
  for (let k = 0; k < 7; k++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
  expect(await out()).toBe(as_read);
});

/** Samples of the first stroke of an InkML file: its channels' values. */
const tracesOf = (inkml: string) => (/<trace(?: [^>]*)?>([^<]*)</.exec(inkml)?.[1] ?? '').split(',').map((s) => s.trim().split(/\s+/).map(Number));
/** Its widths, mm. */
function widthsOf(inkml: string) {
  const names = [...inkml.matchAll(/<channel name="(\w+)"/g)].map((m) => m[1]);
  return tracesOf(inkml).map((s) => s[names.indexOf('W')] ?? 0);
}
