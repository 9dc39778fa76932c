// The sampler sheet from its printing to the pen's page, and a tablet's profile re-checked, weighed and held against the team's.
import { expect, test } from '@playwright/test';
import { signIn } from './people';

test('a sheet is taken to print or as pixels, each with a number of its own', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/sheet');
  const numbers = new Set<string>();
  for (const [label, start] of [
    ['PDF to print', '%PDF'],
    ['SVG to print', '<svg'],
    ['OpenRaster, blank pixels', 'PK'],
  ] as const) {
    const href = await page.getByRole('link', { name: label }).getAttribute('href');
    const got = await page.request.get(href as string);
    expect((await got.body()).subarray(0, start.length).toString()).toBe(start);
    numbers.add(/sheet-(\w{6})\./.exec(got.headers()['content-disposition'] ?? '')?.[1] ?? '');
  }
  expect(numbers.size).toBe(3);
  expect((await page.request.get(`${base}/sampler-sheet/a3/pdf`)).status()).toBe(404);
  expect((await page.request.get(`${base}/sampler-sheet/a4/doc`)).status()).toBe(404);
  // Blank pixels brought back uninked are told from a pen.
  const blank = await (await page.request.get(`${base}/sampler-sheet/letter/png`)).body();
  await page.getByLabel('sheet file').setInputFiles({ name: 'blank.png', mimeType: 'image/png', buffer: blank });
  await expect(page.getByRole('alert')).toContainText('The sheet is blank', { timeout: 30_000 });
});

test('a sheet is read cell by cell, what is left out does not count, and the pen shows every part with its picture', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/sheet');
  await page.getByLabel('Or a sheet by a simulated pen').selectOption({ label: 'soft brush pen' });
  await expect(page.getByRole('heading', { name: /^Sheet \w{6}: 17 of 17 cells read/ })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/printed at 98\.5 %/).first()).toBeVisible();
  const picture = page.getByRole('img', { name: 'straightened sheet with measured edges' });
  // Two edges on every line that was read.
  expect(await picture.first().locator('path').count()).toBeGreaterThan(120);
  await page.getByRole('button', { name: 'fast pace', exact: true }).click();
  await expect(page.getByRole('heading', { name: /^fast pace: read/ })).toBeVisible();
  await page.getByLabel('fast pace counts').uncheck();
  await expect(page.getByRole('heading', { name: 'fast pace: left out' })).toBeVisible();
  await page.getByLabel('Name of the pen').fill('brush pen, new tip');
  await page.getByLabel('Wear').fill('fresh');
  await page.getByRole('button', { name: 'Save pen', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'brush pen, new tip' })).toBeVisible();
  for (const part of ['Lead-out', 'Lead-in', 'Nib, by direction drawn', 'Ramp', 'Pace and pooling', 'Strip, butted end to start']) {
    await expect(page.getByRole('heading', { name: part })).toBeVisible();
  }
  await expect(page.getByText(/^slow, \d+ mm\/s/)).toBeVisible();
  await expect(page.getByText(/^fast, \d+ mm\/s/)).toHaveCount(0);
  await page.getByRole('button', { name: 'see the cell' }).first().click();
  await expect(page.getByRole('heading', { name: /^flicks out, as scanned/ })).toBeVisible();
  // Tags are kept and sought by; the files are what they say.
  await page.getByLabel('tags, comma-separated').fill('Stripes, soft');
  await page.getByLabel('tags, comma-separated').press('Enter');
  for (const [name, start] of [
    ['pen card (JSON)', '{'],
    ['figures (CSV)', 'figure,at,value'],
    ['lines (SVG)', '<svg'],
    ['strip (PNG)', '\u0089PNG'],
  ] as const) {
    const href = await page.getByRole('link', { name }).getAttribute('href');
    expect((await (await page.request.get(href as string)).body()).subarray(0, start.length).toString('latin1')).toBe(start);
  }
  // The same number again is known.
  await page.goto('/pens/sheet');
  await page.getByLabel('Or a sheet by a simulated pen').selectOption({ label: 'soft brush pen' });
  await expect(page.getByText('This sheet was saved before as')).toContainText('brush pen, new tip', { timeout: 60_000 });
  await page.goto('/pens');
  await page.getByLabel('find a pen').fill('stripes');
  await expect(page.locator('a.lane')).toHaveCount(1);
  await page.getByLabel('find a pen').fill('');
  await page.getByLabel('compare flexible steel nib', { exact: true }).check();
  await page.getByLabel('compare flexible steel nib, a month on').check();
  await expect(page.getByRole('row', { name: /^width, normal/ })).toContainText(/no sure change|changed/);
  // Their real lines stand one above the other, over as many mm and at one scale.
  const real = page.getByRole('img', { name: /^a line of flexible steel nib/ });
  await expect(real).toHaveCount(2);
  const boxes = await real.evaluateAll((l) => l.map((x) => x.getAttribute('viewBox')));
  expect(boxes[0]).toBe(boxes[1]);
  const kept = await (await page.request.get(`${base}/pens`)).json();
  expect(kept.filter((p: { name: string }) => p.name === 'brush pen, new tip')).toHaveLength(1);
});

test('a photographed sheet is laid flat, and its widths corrected by its printed bars', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/sheet');
  await page.getByLabel('a photo: the sheet tells its scale').check();
  await expect(page.getByLabel('Resolution, if the file has none')).toBeDisabled();
  await page.getByLabel('Or a sheet by a simulated pen').selectOption({ label: 'soft brush pen' });
  await expect(page.getByRole('heading', { name: /^Sheet \w{6}: 17 of 17 cells read/ })).toBeVisible({ timeout: 90_000 });
  await expect(page.getByText(/a photo laid flat, 1\d\.\d px to the mm · widths corrected by the printed bars: [+−]\d+ µm/)).toBeVisible();
  await expect(page.getByText(/not measurable from this photo/)).toBeVisible();
  // The picture that is shown is the flat one, of the size that places are given in.
  const picture = page.getByRole('img', { name: 'straightened sheet with measured edges' }).first().locator('image');
  const [href, width] = [await picture.getAttribute('href'), Number(await picture.getAttribute('width'))];
  expect(href).toContain('laid=true');
  const png = await (await page.request.get(href as string)).body();
  expect(png.readUInt32BE(16)).toBe(width);
  await page.getByLabel('Name of the pen').fill('brush pen, by telephone');
  await page.getByRole('button', { name: 'Save pen', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'brush pen, by telephone' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('heading', { name: 'Strip, butted end to start' })).toHaveCount(0);
  // Laid flat is a sheet alone: of another picture it is refused with a reason, and nothing is kept in its place.
  const ruled = await (await page.request.get(`${base}/stand-ins/scans/fineliner-05`)).body();
  const other = await page.request.post(`${base}/scans`, { multipart: { file: { name: 'pen.png', mimeType: 'image/png', buffer: ruled } } });
  const { sha256 } = await other.json();
  for (const _ of [1, 2]) {
    const refused = await page.request.get(`${base}/images/${sha256}/preview?laid=true`);
    expect([refused.status(), (await refused.json()).detail]).toEqual([422, expect.stringContaining('no corner mark of a sampler sheet')]);
  }
  // The same pen scanned weighs the same within a photo's 5 % or 20 µm.
  const scan = await (await page.request.get(`${base}/stand-ins/sheets/brush-pen`)).body();
  const read = await page.request.post(`${base}/sheets`, { multipart: { file: { name: 'scan.png', mimeType: 'image/png', buffer: scan } } });
  type Widths = { effort: number; width_mm: number }[];
  const scanned = (await read.json()).card.widths_by_effort as Widths;
  const kept = (await (await page.request.get(`${base}/pens`)).json()).find((p: { name: string }) => p.name === 'brush pen, by telephone');
  const photographed = (await (await page.request.get(`${base}/pens/${kept.id}/files/card.json`)).json()).widths_by_effort as Widths;
  expect(photographed.map((w) => w.effort)).toEqual(scanned.map((w) => w.effort));
  for (const [i, w] of photographed.entries()) {
    const want = scanned[i]?.width_mm ?? 0;
    expect(Math.abs(w.width_mm - want), `${w.effort}: ${w.width_mm} for ${want}`).toBeLessThan(Math.max(0.05 * want, 0.02));
  }
});

test('a cell is marked by hand where it lies, and a weight under the sheet becomes a force', async ({ page }) => {
  const base = await signIn(page, 'Dov Tarrant');
  await page.goto('/pens/sheet');
  await page.getByLabel('Or a sheet by a simulated pen').selectOption({ label: 'technical pen 0.35' });
  await expect(page.getByRole('heading', { name: /^Sheet/ })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'light', exact: true }).click();
  await expect(page.getByRole('row', { name: /^light/ })).toContainText('6 lines');
  await page.getByRole('button', { name: 'mark this cell’s place by hand' }).click();
  // Half of the cell only: its lanes no longer meet all of its lines.
  for (const corner of ['lower left corner', 'lower right corner']) {
    const handle = page.getByRole('slider', { name: corner });
    const box = await handle.boundingBox();
    const [x, y] = [(box?.x ?? 0) + (box?.width ?? 0) / 2, (box?.y ?? 0) + (box?.height ?? 0) / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 60, { steps: 4 });
    await page.mouse.up();
  }
  await page.getByRole('slider', { name: 'lower left corner' }).press('Shift+ArrowUp');
  await page.getByRole('button', { name: 'Read cell here' }).click();
  await expect(page.getByRole('row', { name: /^light/ })).toContainText('place marked by hand', { timeout: 60_000 });
  await expect(page.getByRole('row', { name: /^light/ })).not.toContainText('6 lines');
  await page.getByRole('button', { name: 'back to where the corner marks put it' }).click();
  await expect(page.getByRole('row', { name: /^light/ })).toContainText('6 lines', { timeout: 60_000 });
  await page.getByText('A kitchen scale lay under the sheet').click();
  await page.getByLabel('normal, g').fill('102');
  await page.getByLabel('Name of the pen').fill('weighed pen');
  await page.getByRole('button', { name: 'Save pen', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'weighed pen' })).toBeVisible();
  await expect(page.getByText('1.00 N')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'The edge along the line' })).toBeVisible();
  await expect(page.locator('.figure-row', { hasText: 'raggedness' })).toContainText(/µm \([\d.]+ – [\d.]+\)/);
  const sheets = await (await page.request.get(`${base}/pens`)).json();
  const scan = await (await page.request.get(`${base}/pens/${sheets.find((p: { name: string }) => p.name === 'weighed pen').id}`)).json();
  const again = await page.request.post(`${base}/sheets/${scan.scan_sha256}`, {
    data: {
      name: 'x',
      resolution_dpi: 300,
      marked: [
        {
          id: 'light',
          corners_px: [
            [1, 1],
            [1, 1],
            [1, 1],
            [1, 1],
          ],
        },
      ],
    },
  });
  expect(again.status()).toBe(422);
  expect((await again.json()).detail).toMatch(/mark it again/);
});

test('a profile’s response is held against free drawing', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/tablets');
  await page.locator('a.card-plain').first().click();
  await page.getByLabel('pen of the free line').selectOption({ label: 'soft brush pen, whole sheet' });
  await expect(page.getByText(/agree within 0\.\d\d of effort|differ by 0\.\d\d of effort/)).toBeVisible();
  await page.getByLabel('pen of the free line').selectOption({ label: 'chisel marker, whole sheet' });
  await expect(page.getByText(/^No second estimate: .*Choose a round pen/i)).toBeVisible();
});

test('lines are drawn at true size once the screen has been matched to a card', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/pens');
  const line = page.locator('a.lane svg').first();
  const before = (await line.boundingBox())?.width ?? 0;
  await page.getByRole('button', { name: 'match the screen to a card for true size' }).click();
  await page.getByLabel('size of the card').fill('5');
  await page.getByRole('button', { name: 'Use this size' }).click();
  await expect(page.getByText('at true size on this screen')).toBeVisible();
  expect(((await line.boundingBox())?.width ?? 0) / before).toBeCloseTo(5 / (96 / 25.4), 1);
  await page.reload();
  await expect(page.getByText('at true size on this screen')).toBeVisible();
});

test('a profile is re-checked with a stylus of 240 events a second, without a lost sample', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/tablets/warm-up');
  const surface = page.getByLabel('warm-up surface');
  await expect(surface).toBeVisible();
  await page.waitForTimeout(300);
  const b = (await surface.boundingBox()) as { x: number; y: number };
  const cdp = await page.context().newCDPSession(page);
  const N = 240;
  const start = Date.now() / 1000;
  const event = (type: string, i: number) =>
    cdp.send('Input.dispatchMouseEvent', {
      type: type as 'mouseMoved',
      x: b.x + 60 + 2.5 * i,
      y: b.y + 60,
      button: 'left',
      buttons: type === 'mouseReleased' ? 0 : 1,
      clickCount: 1,
      pointerType: 'pen',
      force: 0.2 + 0.001 * i,
      timestamp: start + i / N,
    });
  // Sent without awaiting each reply.
  await Promise.all([event('mousePressed', 0), ...Array.from({ length: N }, (_, i) => event('mouseMoved', i + 1)), event('mouseReleased', N + 1)]);
  await expect(page.getByText('1 of 4 drawn')).toBeVisible();
  const samples = await page.evaluate(() => {
    const key = Object.keys(localStorage).find((k) => /^warm-up-[0-9a-f]{8}-/.test(k)) ?? '';
    return JSON.parse(localStorage.getItem(key) ?? '[]')[0][0].length / 6;
  });
  expect(samples).toBeGreaterThanOrEqual(N + 1);
  // A re-check with other pressures says at once that the profile no longer holds.
  await page.goto('/tablets');
  await page.locator('a.card-plain').first().click();
  await page.getByRole('button', { name: 'Re-check in 30 seconds' }).click();
  const field = page.getByLabel('re-check surface');
  for (let k = 0; k < 5; k++) {
    const f = (await field.boundingBox()) as { x: number; y: number };
    const send = (type: string, i: number) =>
      cdp.send('Input.dispatchMouseEvent', {
        type: type as 'mouseMoved',
        x: f.x + 60 + 10 * i,
        y: f.y + 50,
        button: 'left',
        buttons: type === 'mouseReleased' ? 0 : 1,
        clickCount: 1,
        pointerType: 'pen',
        force: 0.3 + 0.05 * k + 0.001 * (i % 5),
      });
    await send('mousePressed', 0);
    for (let i = 1; i <= 60; i++) await send('mouseMoved', i);
    await send('mouseReleased', 60);
  }
  await expect(page.getByRole('heading', { name: /no longer holds.*warm up again/i })).toBeVisible();
});

test('force is weighed on a kitchen scale, faults are shown by their strokes, and the team draws the same stroke', async ({ page }) => {
  await signIn(page, 'Dov Tarrant');
  await page.goto('/tablets');
  await page.locator('a.card-plain', { hasText: 'Dov Tarrant' }).first().click();
  for (const shown of ['A steady stroke’s pressure', 'Pressing and letting go', 'Along a straight edge', 'Along a diagonal']) {
    await expect(page.getByRole('img', { name: shown.replace('’', "'") })).toBeVisible();
  }
  await expect(page.locator('.figure-row', { hasText: 'wobble on diagonals' })).toContainText(/5[0-9]|6[0-9]/);
  await page.getByRole('button', { name: 'Measure force' }).click();
  const type = async (i: number, grams: string, raw: string) => {
    await page.getByLabel(`grams ${i}`).fill(grams);
    await page.getByLabel(`raw pressure ${i}`).fill(raw);
  };
  await type(1, '40', '0.2');
  await page.getByRole('button', { name: 'Save force with the profile' }).click();
  await expect(page.getByRole('alert')).toContainText('at least four readings');
  for (const [i, g, r] of [
    [2, '100', '0.45'],
    [3, '200', '0.7'],
    [4, '300', '0.85'],
  ] as const)
    await type(i, g, r);
  await page.getByRole('button', { name: 'Save force with the profile' }).click();
  await expect(page.locator('.figure-row', { hasText: 'force at hardest reading' })).toContainText('2.94 N');
  await expect(page.getByText('1 other version')).toBeVisible();
  await page.goto('/tablets/transfer');
  const said = await page.getByRole('heading', { name: /^A swell/ }).textContent();
  const [raw, corrected] = [...(said ?? '').matchAll(/([\d.]+) %/g)].map((m) => Number(m[1]));
  expect(raw as number).toBeGreaterThan(4 * (corrected as number));
});
