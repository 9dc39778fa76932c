// Pressure and ink of the same strokes on the page: by the simulated hand to a saved response, by a pen off the lines, and what is refused.
import { expect, type Page, test } from '@playwright/test';
import { asMember, production, signIn } from './people';

/** The pairs page of the newest own profile. */
async function open(page: Page) {
  await page.goto('/tablets');
  await page.locator('a.card-plain').first().click();
  await page.getByRole('link', { name: 'Compare with your pen' }).click();
  await expect(page.getByRole('heading', { name: 'Pressure and ink of the same strokes' })).toBeVisible();
}

for (const [way, says] of [
  ['Go over your own lines', 'lines that were gone over'],
  ['Paper over the tablet', 'paper over the tablet'],
] as const)
  test(`${way.toLowerCase()}: from the simulated hand to the profile’s response`, async ({ page }) => {
    const base = await signIn(page, 'Ilse Marrow');
    await open(page);
    await page.getByRole('button', { name: way }).click();
    await expect(page.getByRole('button', { name: 'Analyse' })).toBeDisabled();
    await page.getByRole('button', { name: 'Draw for me' }).click();
    await expect(page.getByText(/a simulated page, \d+ × \d+ px at 300 dpi/)).toBeVisible();
    await page.getByRole('button', { name: 'Analyse' }).click();
    await expect(page.getByRole('heading', { name: 'What raw pressure gives what width' })).toBeVisible({ timeout: 60_000 });
    await expect(page.getByRole('img', { name: /widths of the pen by raw pressure/ })).toBeVisible();
    await expect(page.getByText(/^opens toward 26\d°$/)).toBeVisible();
    // Every stroke is laid over the scan.
    expect(await page.getByRole('img', { name: 'the strokes laid over the scan' }).locator('path').count()).toBeGreaterThanOrEqual(25);
    const off = await page.getByText(/^[\d.]+ % off, at most/).textContent();
    expect(Number.parseFloat(off ?? '99')).toBeLessThan(5);
    // Strokes that lie beside their lines are moved by key and by drag, and laid again from there; gone over they lie as they were drawn.
    if (way.startsWith('Paper')) {
      const laid = page.getByRole('img', { name: 'the strokes laid over the scan' });
      const beside = async () => Number.parseFloat((await page.getByText(/^[\d.]+ mm, at most/).textContent()) ?? '99');
      const before = await beside();
      await laid.focus();
      for (const key of ['ArrowRight', 'ArrowRight', 'ArrowDown', ']']) await page.keyboard.press(key);
      await expect(page.getByText('moved +0.4 mm across, +0.2 mm down, turned +0.2°')).toBeVisible();
      await page.getByRole('button', { name: 'Undo moves' }).click();
      await laid.hover({ position: { x: 100, y: 100 } });
      const box = (await laid.boundingBox()) as { x: number; y: number; width: number };
      await page.mouse.down();
      await page.mouse.move(box.x + 100 + box.width / 210, box.y + 100, { steps: 4 });
      await page.mouse.up();
      await expect(page.getByText(/^moved \+[\d.]+ mm across/)).toBeVisible();
      await page.getByRole('button', { name: 'Lay again from here' }).click();
      await expect(page.getByText(/^Beside their lines\?/)).toBeVisible({ timeout: 60_000 });
      expect(await beside()).toBeLessThan(before + 0.05);
    } else await expect(page.getByText(/^Beside their lines\?/)).toHaveCount(0);
    await page.getByRole('button', { name: 'Save response' }).click();
    await expect(page.getByText(new RegExp(`it comes from ${says}`))).toBeVisible();
    await expect(page.getByRole('heading', { name: 'The five efforts, by these pairs' })).toBeVisible();
    const id = page.url().split('/').pop();
    const saved = await (await page.request.get(`${base}/profiles/${id}`)).json();
    expect(saved.profile.response_from).toBe(way.startsWith('Go') ? 'over' : 'paper');
    // A brush is made through it.
    const pen = (await (await page.request.get(`${base}/pens`)).json())[0];
    const made = await page.request.post(`${base}/brushes`, { data: { name: 'by pairs', pen_id: pen.id, profile_id: id } });
    expect(made.status()).toBe(201);
    await page.request.put(`${base}/archive/brushes/${(await made.json()).id}`, { data: null });
    await page.request.put(`${base}/archive/profiles/${id}`, { data: null });
  });

/** Draws with a pen: places in mm of the page with the pressure there. */
async function draw(page: Page, places: [number, number, number][]) {
  const surface = page.getByRole('img', { name: 'surface over the scan' });
  const box = (await surface.boundingBox()) as { x: number; y: number };
  const view = (await page.getByRole('group', { name: 'view of the surface over the scan' }).getAttribute('data-view')) ?? '';
  const [a = 1, , , d = 1, x = 0, y = 0] = view.split(' ').map(Number);
  const cdp = await page.context().newCDPSession(page);
  const send = (type: string, [u, v, force]: [number, number, number]) =>
    cdp.send('Input.dispatchMouseEvent', {
      type: type as 'mouseMoved',
      x: box.x + x + a * u,
      y: box.y + y + d * v,
      button: 'left',
      buttons: type === 'mouseReleased' ? 0 : 1,
      clickCount: 1,
      pointerType: 'pen',
      force,
    });
  const last = places[places.length - 1];
  if (!places[0] || !last) return;
  await send('mousePressed', places[0]);
  for (const p of places.slice(1)) await send('mouseMoved', p);
  await send('mouseReleased', last);
}

test('a pen goes over the lines on the page; off them it is told so, and its strokes outlast a reload', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  await open(page);
  await page.getByRole('button', { name: 'Draw for me' }).click();
  await expect(page.getByText('recorded strokes')).toBeVisible();
  await page.getByRole('button', { name: 'Discard strokes' }).click();
  await expect(page.getByText('0 strokes')).toBeVisible();
  for (let k = 0; k < 3; k++)
    await draw(
      page,
      Array.from({ length: 60 }, (_, i) => [60 + 20 * k, 140 - 0.6 * i, 0.2 + 0.005 * i]),
    );
  await expect(page.getByText('3 strokes')).toBeVisible();
  await page.getByRole('button', { name: 'Analyse' }).click();
  await expect(page.getByRole('alert')).toContainText('do not lie on the lines', { timeout: 60_000 });
  await page.reload();
  await expect(page.getByText('3 strokes')).toBeVisible();
  await page.getByRole('button', { name: 'Discard strokes' }).click();
  // The same lines as the simulated hand goes over them, by the browser's own pen events.
  const stand = { hand: 'steady', tablet: 'display-16', pen: 'steel-nib', way: 'over' };
  const { inkml } = await (await page.request.post(`${base}/stand-ins/pairs`, { data: stand })).json();
  const traces = [...(inkml as string).matchAll(/<trace[^>]*>([^<]*)<\/trace>/g)].map((m) =>
    (m[1] ?? '').split(',').map((s) => s.trim().split(/\s+/).map(Number)),
  );
  const over = (t: number[][]) =>
    draw(
      page,
      t.filter((_, i) => i % 3 === 0).map((s) => [s[0] ?? 0, s[1] ?? 0, s[2] ?? 0]),
    );
  // While it goes: how near it was, and what is still wanted.
  const told = page.getByRole('status', { name: 'how the lines are gone over' });
  await expect(told).toHaveText(/^0 of \d+ lines gone over four times$/);
  // To the sheet's beats, or to one's own.
  await page.getByRole('switch', { name: 'Beats' }).check();
  await expect(page.getByRole('spinbutton', { name: 'beats a minute' })).toHaveValue('60');
  for (const k of [2, 3, 4, 1]) await expect(page.getByRole('img', { name: `beat ${k} of 4` })).toBeVisible();
  await page.getByRole('switch', { name: 'Beats' }).uncheck();
  for (const t of traces.slice(0, 4)) await over(t);
  await expect(told).toHaveText(/^Last stroke: [0-3]\.\d mm from its line.+ 1 of \d+ lines gone over four times$/s);
  await draw(
    page,
    Array.from({ length: 40 }, (_, i) => [4 + 0.2 * i, 144, 0.5]),
  );
  await expect(told).toContainText('The last stroke lies on no line');
  await page.getByRole('button', { name: 'Discard strokes' }).click();
  for (const t of traces.filter((_, i) => i % 4 === 0).slice(0, 12)) await over(t);
  await expect(page.getByText('12 strokes')).toBeVisible();
  await page.getByRole('button', { name: 'Analyse' }).click();
  await expect(page.getByRole('heading', { name: 'What raw pressure gives what width' })).toBeVisible({ timeout: 60_000 });
  const off = await page.getByText(/^[\d.]+ % off, at most/).textContent();
  expect(Number.parseFloat(off ?? '99')).toBeLessThan(12);
});

test('what cannot be is refused, and nothing is saved', async () => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const profiles = async () => (await (await lead.get(`${p}/profiles`)).json()) as { id: string }[];
  const before = (await profiles()).length;
  const id = (await profiles())[0]?.id;
  const page = await (await lead.post(`${p}/stand-ins/pairs`, { data: { hand: 'steady', tablet: 'travel', pen: 'technical-035', way: 'paper' } })).json();
  const ask = { scan_sha256: page.scan_sha256, resolution_dpi: page.resolution_dpi, way: 'paper', inkml: page.inkml };
  const says = async (change: object, status: number, text: string, route = 'pairs') => {
    const answer = await lead.post(`${p}/profiles/${id}/${route}`, { data: { ...ask, ...change } });
    expect(answer.status(), text).toBe(status);
    expect(JSON.stringify(await answer.json())).toContain(text);
  };
  await says({ resolution_dpi: 0 }, 422, 'between 50 and 10000');
  await says({ scan_sha256: 'f'.repeat(64) }, 404, 'the scan');
  const lines = (sha: string, dpi: number) => lead.get(`${p}/scans/${sha}/lines?resolution_dpi=${dpi}`);
  expect((await (await lines(page.scan_sha256, page.resolution_dpi)).json()).lines.length).toBeGreaterThan(5);
  expect((await lines(page.scan_sha256, 0)).status()).toBe(422);
  expect((await lines('f'.repeat(64), 300)).status()).toBe(404);
  await says({ inkml: null }, 422, 'nothing was drawn yet');
  await says({ inkml: '<ink>' }, 422, 'not well-formed');
  await says({ way: 'over' }, 422, 'lie on');
  const nudge = { placement: [1, 0, 0, 0, 1, 0], turn_deg: 0, dx_mm: 0, dy_mm: 0 };
  await says({ nudge: { ...nudge, dx_mm: 1e300 } }, 422, 'moved farther than any page');
  await says({ nudge: { ...nudge, placement: [0, 0, 0, 0, 0, 0] } }, 422, 'lie on');
  await says({ pen: '00000000-0000-4000-8000-000000000000' }, 404, 'the pen');
  // A technical pen's width does not go by pressure: it is said, and the five efforts stand.
  await says({}, 422, 'hardly goes by pressure', 'response');
  const viewer = await asMember('wanda@nighttram.example');
  expect((await viewer.post(`${p}/profiles/${id}/response`, { data: ask })).status()).toBe(403);
  expect((await lead.get(`${p}/profiles/${id}/pairs`)).status()).toBe(404);
  expect((await profiles()).length).toBe(before);
});
