// Pens and tablets as an inker meets them: a scan that is looked at before it is kept, a drawer in order of width, a warm-up
// that says what it wants and what it cannot know.
import { expect, test } from '@playwright/test';
import { signIn } from './people';

test('a scan is looked at line by line, its efforts are said, and the pen keeps them with its note', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/new');
  await page.getByLabel('Or scan a simulated pen').selectOption({ label: 'technical pen 0.35' });
  await expect(page.getByRole('heading', { name: '20 ruled lines found' })).toBeVisible();
  await expect(page.getByText('0.35 mm')).toBeVisible();
  const lanes = page.locator('.lane');
  await expect(lanes).toHaveCount(20);
  // Each line is shown straightened, its measured edges over it.
  await expect(lanes.first().locator('image')).toHaveCount(1);
  expect(await lanes.first().locator('path, polyline').count()).toBeGreaterThan(0);
  await expect(page.getByLabel('effort of line 1', { exact: true })).toHaveValue('0');
  await expect(page.getByLabel('effort of line 20')).toHaveValue('1');
  await page.getByLabel('effort of line 20').selectOption('');
  await page.getByLabel('Name of the pen').fill('old faithful');
  await page.getByLabel('Paper').fill('layout pad');
  await page.getByLabel('Wear').fill('two years');
  await page.getByRole('button', { name: 'Save pen', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'old faithful' })).toBeVisible();
  await expect(page.getByText('20 lines at 600 dpi · saved by Dov Tarrant')).toBeVisible();
  // The line whose effort was not set is in no width by effort.
  await expect(page.getByText('3 lines', { exact: true })).toHaveCount(1);
  await expect(page.getByText('4 lines', { exact: true })).toHaveCount(4);
  await expect(page.locator('.figure-row', { hasText: 'paper' }).last()).toContainText('layout pad');
  await expect(page.locator('.figure-row', { hasText: 'nearest standard width' })).toContainText('0.35 mm');
  await page.getByLabel('tablet profile').selectOption({ index: 1 });
  await page.getByRole('button', { name: 'Make a brush' }).click();
  await expect(page.getByRole('heading', { name: 'old faithful' })).toBeVisible();
  await expect(page).toHaveURL(/\/brushes\//);
  await expect(page.getByText(/matched to/).first()).toContainText('old faithful');
});

test('flicks are marked on a scan, measured, and kept as a lead-out', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/new');
  await page.getByLabel('Or scan a simulated pen').selectOption({ label: 'soft brush pen' });
  await expect(page.getByRole('heading', { name: '20 ruled lines found' })).toBeVisible();
  await page.getByText('Flicks and dots on this scan').click();
  const picture = page.getByLabel('the scan; drag a box about a stroke');
  const box = await picture.boundingBox();
  // The whole of nothing, dragged; then a line that runs out at its right end, typed.
  await page.mouse.move((box?.x ?? 0) + (box?.width ?? 0) / 2 - 150, (box?.y ?? 0) + 4);
  await page.mouse.down();
  await page.mouse.move((box?.x ?? 0) + (box?.width ?? 0) / 2 - 120, (box?.y ?? 0) + 14, { steps: 3 });
  await page.mouse.up();
  await expect(page.getByText('there is no ink in a marked box')).toBeVisible();
  await page.getByLabel('remove mark 1').click();
  await expect(page.getByText('there is no ink in a marked box')).toHaveCount(0);
  const width = Number((await picture.getAttribute('viewBox'))?.split(' ')[2]);
  const lines = page.locator('.lane');
  await expect(lines).toHaveCount(20);
  const [y0, y1] = await picture.locator('line').evaluateAll((all) => [9, 10].map((i) => Number(all[i]?.getAttribute('y1'))));
  const half = Math.round(((y1 ?? 0) - (y0 ?? 0)) / 2);
  await page.getByLabel('a box typed as left').fill(`4, ${Math.round((y0 ?? 0) - half)}, ${width - 8}, ${2 * half}`);
  await page.getByLabel('a box typed as left').press('Enter');
  await expect(page.getByText(/mm long, [\d.]+ mm at its widest/)).toBeVisible();
  // The marked line is a flick now, and no width at an effort.
  await expect(page.getByLabel('effort of line 10', { exact: true })).toHaveValue('');
  await page.getByLabel('Name of the pen').fill('brush pen with a flick');
  await page.getByRole('button', { name: 'Save pen', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'brush pen with a flick' })).toBeVisible();
  const kept = await (await page.request.get(`${base}/pens`)).json();
  const { card } = kept.find((p: { name: string }) => p.name === 'brush pen with a flick');
  expect(card.lead_out.flicks).toBe(1);
  expect(card.lead_out.sd_mm).toBeUndefined();
  expect(card.widths_by_effort[2].lines).toBe(3);
});

test('the drawer lies thinnest first, each pen by a line of its own', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/pens');
  const lanes = page.locator('a.lane');
  await expect(lanes.first()).toBeVisible();
  const widths = (await lanes.allTextContents()).map((t) => t.match(/([\d.]+)(?: – ([\d.]+))? mm/)).map((m) => (Number(m?.[1]) + Number(m?.[2] ?? m?.[1])) / 2);
  expect(widths.length).toBeGreaterThan(4);
  // By the width at normal effort: nearly the order of the middles, and surely that of first and last.
  expect(widths[0]).toBeLessThan(widths[widths.length - 1] as number);
  for (const lane of await lanes.all()) await expect(lane.locator('svg')).toHaveCount(1);
});

test('a scan of another resolution is measured anew with the one that is typed', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  const scan = await (await page.request.get(`${base}/stand-ins/scans/fineliner-05`)).body();
  // Without its resolution: the chunk that states it is taken out.
  const at = scan.indexOf(Buffer.from('pHYs')) - 4;
  const bare = Buffer.concat([scan.subarray(0, at), scan.subarray(at + 21)]);
  await page.goto('/pens/new');
  await page.getByLabel('scan file').setInputFiles({ name: 'bare.png', mimeType: 'image/png', buffer: bare });
  await expect(page.getByRole('alert')).toContainText(/no scanner’s resolution is in the file/i);
  await page.getByLabel('Resolution, if the file has none').fill('1200');
  await page.getByRole('button', { name: 'Measure again' }).click();
  await expect(page.getByText(/at 1200 dpi/)).toBeVisible();
  const width = async () => Number((await page.locator('.lane').nth(9).textContent())?.match(/([\d.]+) ± /)?.[1]);
  const small = await width();
  await page.getByLabel('Resolution, if the file has none').fill('600');
  await page.getByRole('button', { name: 'Measure again' }).click();
  await expect(page.getByText(/at 600 dpi/)).toBeVisible();
  expect((await width()) / small).toBeCloseTo(2, 1);
});

test('a mouse draws the warm-up and is told what cannot be known from it; a short stroke is not taken', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/tablets/warm-up');
  const surface = page.getByLabel('warm-up surface');
  const drag = async (y: number, length: number) => {
    // A notice above it moves the surface: it is checked anew.
    const box = (await surface.boundingBox()) as { x: number; y: number };
    await page.mouse.move(box.x + 80, box.y + y);
    await page.mouse.down();
    await page.mouse.move(box.x + 80 + length, box.y + y, { steps: 12 });
    await page.mouse.up();
  };
  await drag(40, 30);
  await expect(page.getByRole('alert')).toContainText('too short');
  await expect(page.getByText('0 of 4 drawn')).toBeVisible();
  await drag(40, 600);
  await expect(page.getByText('this device reports no pressure')).toBeVisible();
  await expect(page.getByText('1 of 4 drawn')).toBeVisible();
  await page.getByRole('button', { name: 'Undo last stroke' }).click();
  await expect(page.getByText('0 of 4 drawn')).toBeVisible();
  for (let i = 0; i < 23; i++) await drag(40 + (i % 4) * 45, 600);
  await page.getByRole('button', { name: 'Analyse' }).click();
  await expect(page.getByRole('alert')).toContainText('reported no pressure');
  // The strokes are still there: nothing is lost by being refused.
  await expect(page.getByRole('heading', { name: /^Straight edge/ })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Analyse' })).toBeEnabled();
});

test('the simulated stylus warms up on any tablet, and its InkML comes back in as the same profile', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/tablets/warm-up');
  await page.getByLabel('Hand').selectOption({ label: 'heavy hand' });
  await page.getByLabel('Tablet', { exact: true }).selectOption({ label: 'old pen tablet' });
  await page.getByRole('button', { name: 'Draw for me' }).click();
  await expect(page.getByRole('heading', { name: 'What the warm-up shows' })).toBeVisible();
  const figures = page.locator('.figure-row');
  await expect(figures.filter({ hasText: 'steps' })).toContainText(/10\d\d/);
  await expect(figures.filter({ hasText: 'rate' })).toContainText('100');
  await expect(page.getByText(/full point is reached early/)).toBeVisible();
  const seen = await figures.allTextContents();
  await page.getByLabel('Whose hand').fill('Juno Abara');
  await page.getByLabel('On which tablet').fill('lent slate');
  await page.getByRole('button', { name: 'Save profile' }).click();
  await expect(page.getByRole('heading', { name: 'Juno Abara on the lent slate' })).toBeVisible();
  const inkml = await (await page.request.get((await page.getByRole('link', { name: 'Warm-up as InkML' }).getAttribute('href')) as string)).body();
  await page.goto('/tablets/warm-up');
  await page.getByLabel('warm-up file').setInputFiles({ name: 'lent.inkml', mimeType: 'text/xml', buffer: inkml });
  await expect(page.getByRole('heading', { name: 'What the warm-up shows' })).toBeVisible();
  expect(await figures.allTextContents()).toEqual(seen);
  await page.getByRole('button', { name: 'Draw again' }).click();
  await page.getByLabel('warm-up file').setInputFiles({ name: 'broken.inkml', mimeType: 'text/xml', buffer: inkml.subarray(0, 900) });
  await expect(page.getByRole('alert')).toContainText('not well-formed XML');
  // Nothing was kept of what was only looked at.
  const kept = await (await page.request.get(`${base}/profiles`)).json();
  expect(kept.filter((p: { tablet: string }) => p.tablet === 'lent slate')).toHaveLength(1);
});

test('lines photographed beside a card are laid flat, and say how sure their widths are', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/new');
  await page.getByLabel('a photo: the card beside the lines tells its scale').check();
  await page.getByLabel('Or photograph a simulated pen').selectOption('fineliner-05');
  await expect(page.getByText('6 ruled lines found')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/a photo laid flat by the card in it, 2\d\.\d px to the mm, widths sure to ±0\.0\d\d mm/)).toBeVisible();
  await expect(page.getByText(/not measurable from this photo/)).toBeVisible();
  await expect(page.getByText(/ragged \d/)).toHaveCount(0);
  // A box about a line of the photo laid flat measures there.
  const laid = page.locator('details svg image');
  await page.getByText('Flicks and dots on this photo').click();
  expect(await laid.getAttribute('href')).toContain('preview?laid=true');
  await page.getByLabel('Name of the pen').fill('fineliner by phone');
  await page.getByRole('button', { name: 'Save pen', exact: true }).click();
  await expect(page.getByRole('heading', { name: /fineliner by phone/ })).toBeVisible();
  const kept = await page.request.get(`${base}/pens/${page.url().split('/').pop()}/files/card.json`);
  const widths = (await kept.json()).widths_by_effort as { effort: number; width_mm: number }[];
  expect(widths.map((w) => w.effort)).toEqual([0.25, 0.5, 0.75]);
  for (const w of widths) expect(Math.abs(w.width_mm - 0.52)).toBeLessThan(0.06);
});
