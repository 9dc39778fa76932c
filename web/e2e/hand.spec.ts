// In the hand: a colleague's brush goes through one's own tablet; touch moves the view once a pen was seen; the eraser's end, a cancelled pen,
// a view that is turned; work that outlives a reload.
import { type Browser, expect, type Page, test } from '@playwright/test';
import { originOf } from './onBench';
import { asMember } from './people';

type Samples = number[][];
/** What a made-up pointer says of itself. */
type Made = { pointerType?: string; button?: number; buttons?: number };

/** Strokes of an exercise in a warm-up's file: x, y and raw pressure. */
function strokes(inkml: string, exercise: string, pace: string): Samples[] {
  const groups = inkml.split('<traceGroup').slice(1);
  const of = groups.find((g) => g.includes(`>${exercise}<`) && g.includes(`>${pace}<`)) ?? '';
  const names = [...inkml.matchAll(/<channel name="(\w+)"/g)].map((m) => m[1]);
  const [x, y, f] = ['X', 'Y', 'F'].map((n) => names.indexOf(n));
  return [...of.matchAll(/<trace(?: [^>]*)?>([^<]*)</g)].map((m) =>
    (m[1] ?? '')
      .trim()
      .split(',')
      .map((s) => s.trim().split(/\s+/).map(Number))
      .map((v) => [v[x ?? 0] ?? 0, v[y ?? 1] ?? 0, v[f ?? 2] ?? 0]),
  );
}

async function signedIn(browser: Browser, who: string): Promise<Page> {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await page.goto('/');
  await page.locator('.figure-row', { hasText: who }).getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('link', { name: 'Brushes' }).waitFor();
  return page;
}

async function emptyPage(page: Page) {
  await page.goto('/brushes/trials');
  await page.getByRole('button', { name: 'Make empty page' }).click();
  const sheet = page.getByLabel('trial page', { exact: true });
  await sheet.waitFor();
  await expect(page.getByLabel('the tablet that you draw on')).toBeVisible();
  // Until its brush is there, the page can only be looked at.
  await expect(sheet).toHaveCSS('cursor', 'crosshair');
  return sheet;
}

/** Draws a pen stroke over the sheet from 0.2 to 0.8 of its width, its force given along the way, at 125 events a second whatever the
 *  machine has to do: the width follows the pace. */
async function penStroke(page: Page, force: number[], y: number) {
  const sheet = page.getByLabel('trial page', { exact: true });
  const box = (await sheet.boundingBox()) as { x: number; y: number; width: number; height: number };
  const cdp = await page.context().newCDPSession(page);
  const began = Date.now() / 1000 - force.length / 125;
  const send = (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', i: number, f: number) =>
    cdp.send('Input.dispatchMouseEvent', {
      type,
      timestamp: began + i / 125,
      x: box.x + box.width * (0.2 + (0.6 * i) / (force.length - 1)),
      y: box.y + box.height * y,
      button: 'left',
      buttons: 1,
      clickCount: 1,
      pointerType: 'pen',
      force: f,
    });
  await send('mousePressed', 0, force[0] ?? 0);
  for (let i = 1; i < force.length; i++) await send('mouseMoved', i, force[i] ?? 0);
  await send('mouseReleased', force.length - 1, 0);
  await cdp.detach();
}

/** Mean width of the middle of each stroke, mm, as the page gives it out. */
async function widths(page: Page) {
  await expect(page.getByText('· Saved')).toBeVisible();
  const href = (await page.getByRole('link', { name: 'InkML' }).getAttribute('href')) ?? '';
  const text = await (await page.request.get(href)).text();
  const names = [...text.matchAll(/<channel name="(\w+)"/g)].map((m) => m[1]);
  const w = names.indexOf('W');
  return [...text.matchAll(/<trace(?: [^>]*)?>([^<]*)</g)].map((m) => {
    const all = (m[1] ?? '').trim().split(',');
    const body = all.slice(Math.floor(all.length / 4), Math.ceil((3 * all.length) / 4));
    return body.map((s) => Number(s.trim().split(/\s+/)[w])).reduce((a, b) => a + b, 0) / body.length;
  });
}

test('the same intended stroke of two members on two tablets is as wide, whoever made the brush', async ({ browser }) => {
  const lead = await asMember('ilse@nighttram.example');
  const p = `/api/v1/productions/${(await (await lead.get('/api/v1/session')).json()).productions[0].id}`;
  const stand = async (tablet: string) => (await (await lead.post(`${p}/stand-ins/warm-up`, { data: { hand: 'steady', tablet } })).json()).inkml as string;
  const standIns = await (await lead.get(`${p}/stand-ins`)).json();
  const idOf = (name: string) => standIns.tablets.find((t: { name: string }) => t.name === name).id as string;
  // The lead has a warm-up on the pen display; the artist's own profile is of the old pen tablet.
  const [display, old] = [await stand(idOf('16-inch pen display')), await stand(idOf('old pen tablet'))];
  expect((await lead.post(`${p}/profiles`, { data: { artist: 'Ilse Marrow', tablet: '16-inch pen display', inkml: display } })).status()).toBe(201);
  const dov = await asMember('dov@nighttram.example');
  expect((await dov.post(`${p}/profiles`, { data: { artist: 'Dov Tarrant', tablet: 'lent old tablet', inkml: old } })).status()).toBe(201);
  const raw: number[] = [];
  const inked: number[][] = [];
  for (const [who, tablet, inkml] of [
    ['Ilse Marrow', '16-inch pen display', display],
    ['Dov Tarrant', 'lent old tablet', old],
  ] as const) {
    const page = await signedIn(browser, who);
    await emptyPage(page);
    await page.getByLabel('the tablet that you draw on').selectOption({ label: tablet });
    // Lines ruled at normal effort: the response was not made of them.
    const drawn = strokes(inkml, 'ruled', 'slow').slice(0, 2);
    expect(drawn.length).toBe(2);
    for (const [k, s] of drawn.entries()) {
      const force = Array.from({ length: 60 }, (_, i) => s[Math.floor(((i + 0.5) / 60) * s.length)]?.[2] ?? 0);
      raw.push(force.slice(15, 45).reduce((a, b) => a + b, 0) / 30);
      await penStroke(page, force, 0.3 + 0.3 * k);
      await expect(page.getByText(k ? '2 strokes ·' : '1 stroke ·')).toBeVisible();
    }
    inked.push(await widths(page));
    await page.context().close();
  }
  const mean = (v: number[]) => v.reduce((a, b) => a + b, 0) / v.length;
  // The tablets report quite other pressures, and the lines are as wide.
  expect(Math.abs(mean(raw.slice(0, 2)) - mean(raw.slice(2)))).toBeGreaterThan(0.04);
  const [a, b] = [mean(inked[0] ?? []), mean(inked[1] ?? [])];
  expect(Math.abs(a / b - 1)).toBeLessThan(0.03);
});

test('touch inks until a pen is seen, then moves the view; a palm blocks nothing; the eraser takes out; a cancelled stroke is gone', async ({ browser }) => {
  const page = await signedIn(browser, 'Dov Tarrant');
  const sheet = await emptyPage(page);
  const count = (n: number) => expect(page.getByText(n === 1 ? '1 stroke ·' : `${n} strokes ·`)).toBeVisible();
  const box = (await sheet.boundingBox()) as { x: number; y: number };
  // What the DevTools protocol cannot send is made in the page.
  const pointer = (type: string, id: number, x: number, y: number, more: Made = {}) =>
    sheet.evaluate(
      (el, [type, id, x, y, more]) => {
        const init = { pointerId: id, clientX: x, clientY: y, bubbles: true, isPrimary: true, pressure: 0.5, button: 0, buttons: 1, ...more };
        // A pointer that is made up cannot be captured.
        el.setPointerCapture = () => undefined;
        el.dispatchEvent(new PointerEvent(type, init));
      },
      [type, id, box.x + x, box.y + y, more] as const,
    );
  const stroke = async (id: number, y: number, more: Made, end = 'pointerup') => {
    await pointer('pointerdown', id, 200, y, more);
    for (let i = 1; i <= 10; i++) await pointer('pointermove', id, 200 + 30 * i, y, { ...more, button: -1 });
    await pointer(end, id, 500, y, { ...more, buttons: 0 });
  };
  const touch = { pointerType: 'touch' };
  const pen = { pointerType: 'pen' };
  await stroke(1, 100, touch);
  await count(1);
  // A palm lies there before the pen: its stroke is none, and the pen's is.
  await pointer('pointerdown', 2, 300, 400, touch);
  await pointer('pointermove', 2, 310, 402, { ...touch, button: -1 });
  await stroke(3, 180, pen);
  await pointer('pointerup', 2, 310, 402, { ...touch, buttons: 0 });
  await count(2);
  // From now on a finger moves the view.
  const before = await originOf(sheet);
  await stroke(4, 300, touch);
  await count(2);
  expect((await originOf(sheet)).x - before.x).toBeCloseTo(300, 0);
  // Two fingers: apart by twice as much, twice as large.
  await pointer('pointerdown', 5, 300, 300, touch);
  await pointer('pointerdown', 6, 400, 300, touch);
  await pointer('pointermove', 6, 500, 300, { ...touch, button: -1 });
  await pointer('pointerup', 6, 500, 300, { ...touch, buttons: 0 });
  await pointer('pointerup', 5, 300, 300, { ...touch, buttons: 0 });
  expect((await originOf(sheet)).scale / before.scale).toBeCloseTo(2, 2);
  await page.getByRole('button', { name: 'Show all' }).click();
  // A stroke that the system takes away is none.
  await stroke(7, 260, pen, 'pointercancel');
  await count(2);
  // The eraser's end takes out what it touches, in one step that can be undone.
  await pointer('pointerdown', 8, 300, 80, { ...pen, button: 5, buttons: 32 });
  for (let y = 85; y <= 120; y += 5) await pointer('pointermove', 8, 300, y, { ...pen, button: -1, buttons: 32 });
  await pointer('pointerup', 8, 300, 120, { ...pen, button: 5, buttons: 0 });
  await count(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await count(2);
  // The barrel's button does what it is set to.
  await page.getByLabel('what the pen’s button does').selectOption('erase');
  await pointer('pointerdown', 9, 300, 170, { ...pen, button: 2, buttons: 2 });
  for (let y = 172; y <= 190; y += 3) await pointer('pointermove', 9, 300, y, { ...pen, button: -1, buttons: 2 });
  await pointer('pointerup', 9, 300, 190, { ...pen, button: 2, buttons: 0 });
  await count(1);
  // Steps outlive a reload.
  await expect(page.getByText('· Saved')).toBeVisible();
  await page.reload();
  await count(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await count(2);
  await page.context().close();
});

test('a view that is turned and mirrored inks where the pen is, and shows the same page', async ({ browser }) => {
  const page = await signedIn(browser, 'Dov Tarrant');
  const sheet = await emptyPage(page);
  await page.getByLabel('turn right').click();
  await page.getByRole('button', { name: 'Mirror' }).click();
  await page.getByRole('button', { name: 'zoom in' }).click();
  const box = (await sheet.boundingBox()) as { x: number; y: number };
  await page.mouse.move(box.x + 300, box.y + 200);
  await page.mouse.down();
  await page.mouse.move(box.x + 600, box.y + 260, { steps: 20 });
  const dark = () =>
    sheet.evaluate((live: HTMLCanvasElement) => {
      const at = (c: HTMLCanvasElement | null | undefined) => {
        const d = c?.getContext('2d')?.getImageData(300, 195, 300, 70).data ?? [];
        let n = 0;
        for (let i = 0; i < d.length; i += 4) if ((d[i + 3] ?? 0) > 128 && (d[i] ?? 255) < 100) n++;
        return n;
      };
      return [at(live), at(live.parentElement?.querySelector<HTMLCanvasElement>('[data-ink]'))];
    });
  const [live = 0] = await dark();
  expect(live).toBeGreaterThan(200);
  await page.mouse.up();
  await expect(page.getByText('1 stroke ·')).toBeVisible();
  // The lead-out comes with the lift.
  const [, done = 0] = await dark();
  expect(Math.abs(done / live - 1)).toBeLessThan(0.35);
  // Leaving within the moment loses nothing.
  await page.mouse.move(box.x + 300, box.y + 350);
  await page.mouse.down();
  await page.mouse.move(box.x + 600, box.y + 380, { steps: 10 });
  await page.mouse.up();
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  await page.reload();
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('1 stroke ·')).toBeVisible();
  await page.context().close();
});

test('a stroke in the air outlives its page; the nib goes with the pointer, and ink that is foretold is taken back', async ({ browser }) => {
  const page = await signedIn(browser, 'Dov Tarrant');
  const sheet = await emptyPage(page);
  const box = (await sheet.boundingBox()) as { x: number; y: number };
  /** Dark pixels of the layer that goes with the pointer: how many, and how far they reach, px. */
  const beside = () =>
    sheet.evaluate((live: HTMLCanvasElement) => {
      const c = live.parentElement?.querySelector<HTMLCanvasElement>('[data-ahead]');
      const d = c?.getContext('2d')?.getImageData(0, 0, c.width, c.height);
      const at: number[] = [];
      for (let i = 0; d && i < d.width * d.height; i++) if ((d.data[4 * i + 3] ?? 0) > 100 && (d.data[4 * i] ?? 255) < 120) at.push(i % d.width);
      return { n: at.length, left: Math.min(...at), right: Math.max(...at) };
    });
  // The nib at its size: zoomed in further, larger by as much.
  const larger = async () => {
    for (let k = 0; k < 4; k++) await page.getByRole('button', { name: 'zoom in' }).click();
  };
  await larger();
  const before = await originOf(sheet);
  await page.mouse.move(box.x + 300, box.y + 200);
  const near = await beside();
  expect((near.left + near.right) / 2).toBeCloseTo(300, -1);
  await larger();
  const grown = (await originOf(sheet)).scale / before.scale;
  await page.mouse.move(box.x + 320, box.y + 200);
  const close = await beside();
  expect(grown).toBeGreaterThan(1.5);
  expect(Math.abs(close.right - close.left - grown * (near.right - near.left))).toBeLessThan(4);
  // What the browser foretells is ink before the pen, until the next report is there.
  let reports = 0;
  const made = (type: string, x: number, foretold: number[] = []) =>
    sheet.evaluate(
      (el, [type, x, y, foretold, before]) => {
        el.setPointerCapture = () => undefined;
        // 125 reports a second, whatever the machine has to do: a brush that steadies its line lags by a time.
        const one = (type: string, x: number, after = 0) => {
          const event = new PointerEvent(type, {
            pointerId: 3,
            pointerType: 'pen',
            clientX: x,
            clientY: y,
            bubbles: true,
            pressure: 0.6,
            button: type === 'pointerdown' ? 0 : -1,
            buttons: 1,
          });
          Object.defineProperty(event, 'timeStamp', { value: 1000 + 8 * (before + after) });
          return event;
        };
        const event = one(type, x);
        const next = foretold.map((to, i) => one('pointermove', to, i + 1));
        Object.defineProperty(event, 'getPredictedEvents', { value: () => next });
        el.dispatchEvent(event);
      },
      [type, box.x + x, box.y + 300, foretold.map((to) => box.x + to), reports++] as const,
    );
  await made('pointerdown', 200);
  for (let k = 1; k <= 10; k++) await made('pointermove', 200 + 10 * k);
  const bare = await beside();
  await made('pointermove', 310, [330, 350, ...Array<number>(8).fill(370)]);
  const foretold = await beside();
  expect(foretold.right).toBeGreaterThan(bare.right + 40);
  await made('pointermove', 320);
  expect((await beside()).right).toBeLessThan(foretold.right - 20);
  // The page is hidden under the pen: what it drew is drawn.
  await page.evaluate(() => {
    Object.defineProperty(document, 'visibilityState', { value: 'hidden', configurable: true });
    document.dispatchEvent(new Event('visibilitychange'));
    Object.defineProperty(document, 'visibilityState', { value: 'visible', configurable: true });
  });
  await expect(page.getByText('1 stroke ·')).toBeVisible();
  // And so it is where the page is closed or loaded anew in the middle of one.
  await page.mouse.move(box.x + 200, box.y + 400);
  await page.mouse.down();
  await page.mouse.move(box.x + 500, box.y + 430, { steps: 15 });
  await page.reload();
  await expect(page.getByText('2 strokes ·')).toBeVisible();
  await page.context().close();
});
