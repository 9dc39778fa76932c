// One's own inked page beside a trial page: the same ink shows no difference, heavier ink is told by how much, and what cannot be measured says why.
import { expect, test } from '@playwright/test';
import { asMember, production, signIn } from './people';

const PX_PER_MM = 12;

/** A bowed line with a swell of pressure: six numbers a sample. */
const line = (k: number) =>
  Array.from({ length: 80 }, (_, i) => [i * 6, 12 + i * 0.7, 8 + 6 * k + Math.sin(i / 20 + k), 0.35 + 0.3 * Math.sin(i / 18 + k / 3) ** 2, null, null]).flat();

test('a page that was scanned is held against a trial page inked with the brush', async ({ page }, info) => {
  const dov = await asMember('dov@nighttram.example');
  const p = await production(dov);
  const rack: { id: string; name: string; current_version: number }[] = await (await dov.get(`${p}/brushes`)).json();
  const brush = rack.find((b) => b.name === 'Brush pen for the stripes');
  const strokes = Array.from({ length: 14 }, (_, k) => ({ samples: line(k), brush_id: brush?.id, version: 1, role: 'contour', colour: '#111111' }));
  const sheet = { width_px: 80 * PX_PER_MM, height_px: 110 * PX_PER_MM, px_per_mm: PX_PER_MM, strokes };
  const make = async (name: string, own: object) => (await (await dov.post(`${p}/trials`, { data: { name, page: own } })).json()).id as string;
  const same = await make('As on my page', sheet);
  const heavy = await make('Heavier than my page', { ...sheet, strokes: strokes.map((s) => ({ ...s, weight_factor: 1.2 })) });
  const bare = await make('Not inked yet', { ...sheet, strokes: [] });
  const scan = await (await dov.get(`${p}/trials/${same}/out/png`)).body();
  const file = { name: 'my page.png', mimeType: 'image/png', buffer: scan };

  await signIn(page, 'Dov Tarrant');
  await page.goto(`/brushes/trials/${same}`);
  await page.getByRole('link', { name: 'Compare with my page' }).click();
  await page.getByLabel('scan of your page').setInputFiles(file);
  await expect(page.getByText('No sure difference between the two pages.')).toBeVisible({ timeout: 60_000 });
  // The scan is still there after a reload.
  await page.reload();
  await expect(page.getByText('my page.png')).toBeVisible();
  await expect(page.getByText('No sure difference between the two pages.')).toBeVisible({ timeout: 60_000 });

  await page.goto(`/brushes/trials/${heavy}/my-page`);
  await page.getByLabel('scan of your page').setInputFiles(file);
  const told = page.getByText(/^The trial page: its lines are \d/);
  await expect(told).toBeVisible({ timeout: 60_000 });
  const by = Number(/are ([\d.]+) % heavier/.exec((await told.textContent()) ?? '')?.[1]);
  expect(by, 'per cent heavier, of 20').toBeGreaterThan(18);
  expect(by).toBeLessThan(22);
  await page.setViewportSize({ width: 1280, height: 800 });
  await info.attach('compared', { body: await page.screenshot(), contentType: 'image/png' });

  await page.goto(`/brushes/trials/${bare}/my-page`);
  await page.getByLabel('scan of your page').setInputFiles(file);
  await expect(page.getByText(/nothing is inked on this trial page yet/i)).toBeVisible({ timeout: 60_000 });
});
