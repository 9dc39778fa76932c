// What comes in becomes a new drawing, a next take or a question; an artist hands in from the desk; what is no drawing is set aside. All of
// it can be undone. It makes guides and deliveries of its own, so it comes after those that look at the demo.
import { expect, type Page, test } from '@playwright/test';
import { png, zip } from './files';
import { asMember, production, signIn } from './people';

const [W, H] = [640, 360];
const lines = (widths: number[]) => png(W, H, (x, y) => widths.some((w, k) => x >= 40 && x < W - 40 && y >= 40 + 60 * k && y < 40 + 60 * k + w));
const role = { name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.2 } };
const GUIDE = {
  format: 'eddymist/line-guide',
  version: 1,
  name: 'coming',
  page: { width_px: W, height_px: H },
  roles: [role],
  must_mend: ['heavy'],
  off: ['hard-edge'],
};

type Row = { id: string; file: string; standing: string; asked: boolean; again: boolean };

async function delivery(base: string, page: Page['request'], name: string, pattern: string, files: Record<string, Buffer>) {
  const { id: guide_id } = await (await page.post(`${base}/guides`, { data: { ...GUIDE, name } })).json();
  const { id } = await (await page.post(`${base}/deliveries`, { data: { name, guide_id, pattern } })).json();
  const url = `${base}/deliveries/${id}`;
  for (const [file, buffer] of Object.entries(files))
    await page.post(`${url}/drawings`, { multipart: { file: { name: file, mimeType: 'image/png', buffer } } });
  const rows = async (): Promise<Row[]> => (await (await page.get(url)).json()).drawings;
  const settled = () => expect.poll(async () => (await rows()).every((d) => d.standing !== 'waiting')).toBe(true);
  await settled();
  return { id, rows, settled, names: async () => (await rows()).map((d) => d.file).sort() };
}

const dropped = (page: Page, name: string, buffer: Buffer, mimeType = 'image/png') =>
  page.getByLabel('more drawings').setInputFiles({ name, mimeType, buffer });

test('what is dropped on a delivery is a new drawing, a next take or a question, and can be removed again', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const d = await delivery(base, page.request, 'coming', '', {
    'A-0004.png': lines([6, 6]),
    'B-0004.png': lines([6, 9]),
    '5.png': lines([9]),
    'slate.png': lines([6, 6, 6]),
  });
  await page.goto(`/checks/${d.id}`);
  // A number without its zeros is the next take; removed, the one before is there again.
  await dropped(page, '005.png', lines([6]));
  await expect(page.getByText('1 next take: 005.png of 5.png')).toBeVisible();
  await d.settled();
  expect(await d.names()).toEqual(['005.png', 'A-0004.png', 'B-0004.png', 'slate.png']);
  await page.getByRole('button', { name: 'Remove what came in' }).click();
  await expect(page.getByText('1 drawing was removed: not in any count')).toBeVisible();
  expect(await d.names()).toEqual(['5.png', 'A-0004.png', 'B-0004.png', 'slate.png']);
  await page.keyboard.press('Control+z');
  await expect.poll(d.names).toContain('005.png');
  // Two drawings have the number 4: which is meant is asked, with a picture of each.
  await dropped(page, '4.png', lines([6, 7]));
  await page.getByRole('button', { name: 'Say of which' }).click();
  const asked = page.getByRole('region', { name: 'whose next take' });
  await expect(asked.locator('img')).toHaveCount(2);
  await asked.getByText('B-0004.png').click();
  await expect(asked).toHaveCount(0);
  await d.settled();
  expect(await d.names()).toEqual(['005.png', '4.png', 'A-0004.png', 'slate.png']);
  expect((await d.rows()).find((r) => r.file === '4.png')).toMatchObject({ asked: false, again: true });
  // The same again is nothing new.
  await dropped(page, '4.png', lines([6, 7]));
  await expect(page.getByText('1 file is the same as before')).toBeVisible();
  // A slate is no drawing: it is in no count.
  await page.goto(`/checks/of/${(await d.rows()).find((r) => r.file === 'slate.png')?.id}`);
  await page.getByRole('button', { name: 'Mark as no drawing' }).click();
  await expect(page.getByText('1 file is no drawing: not in any count')).toBeVisible();
  await expect(page.getByText(/^3 drawings/).first()).toBeVisible();
  expect(await d.names()).not.toContain('slate.png');
  await page.getByText('1 file is no drawing').click();
  await page.getByRole('button', { name: 'Restore slate.png' }).click();
  await expect.poll(d.names).toContain('slate.png');
  // A table among the files is added to the manifest: what was typed of others stays.
  const typed = { from_version: 1, pattern: '', rows: { 'A-0004.png': { artist: 'pia' } } };
  expect((await page.request.put(`${base}/deliveries/${d.id}/manifest`, { data: typed })).status()).toBe(200);
  await dropped(page, 'names.csv', Buffer.from('file;artist;shot\n4.png;dov;77\n'), 'text/csv');
  await expect(page.getByText('names.csv was added to the manifest')).toBeVisible();
  const now = await (await page.request.get(`${base}/deliveries/${d.id}`)).json();
  expect(now.drawings.find((r: Row) => r.file === '4.png').manifest).toEqual({ artist: 'dov', shot: '77' });
  expect(now.drawings.find((r: Row) => r.file === 'A-0004.png').manifest).toEqual({ artist: 'pia' });
  // So does a manifest in an archive, and it says of what was here before, too.
  const table = Buffer.from('file,artist\n005.png,osk\n19.png,pia\n');
  await dropped(
    page,
    'more.zip',
    zip([
      ['19.png', lines([6, 9])],
      ['manifest.csv', table],
    ]),
    'application/zip',
  );
  await expect.poll(d.names).toContain('more.zip/19.png');
  const then = await (await page.request.get(`${base}/deliveries/${d.id}`)).json();
  for (const [file, artist] of [
    ['005.png', 'osk'],
    ['more.zip/19.png', 'pia'],
    ['4.png', 'dov'],
  ])
    expect(then.drawings.find((r: Row) => r.file === file).manifest.artist, file).toBe(artist);
});

test('an artist hands in the next take from the desk, with a note, and sees what the lead chose', async ({ page }) => {
  const lead = await asMember('ilse@nighttram.example');
  const base = await production(lead);
  const d = await delivery(base, lead, 'handed in', '{shot}_{artist}_{drawing}', { '41_dov_1.png': lines([9, 6, 9]), '41_dov_2.png': lines([6, 6]) });
  const one = (await d.rows()).find((r) => r.file === '41_dov_1.png') as Row;
  await lead.post(`${base}/drawings/${one.id}/pins`, { data: { x: 300, y: 43, text: 'thinner here' } });
  const fix = [{ kind: 'heavy', role: 'line', at: [0, 0] }];
  const back = { drawings: [{ id: one.id, seen: 0 }], state: 'return', note: 'the upper line', strokes: [], fix };
  expect((await lead.post(`${base}/deliveries/${d.id}/decisions`, { data: back })).status()).toBe(200);

  await signIn(page, 'Dov Tarrant');
  await page.goto(`/checks/of/${one.id}`);
  // Nothing that was found was chosen: the note and the pin come first, the rest is folded.
  await expect(page.getByText('only these must be fixed: heavy line')).toBeVisible();
  await expect(page.getByText('2 more found, which need not be fixed')).toBeVisible();
  await page.goto('/');
  const card = page.getByRole('group', { name: 'next take of 41_dov_1.png' });
  await expect(card.locator('img')).toBeVisible();
  await expect(card).toContainText('“the upper line”');
  // The same picture is no next take, and stays chosen with the reason.
  const hand = (buffer: Buffer) => card.locator('input[type=file]').setInputFiles({ name: 'again.png', mimeType: 'image/png', buffer });
  await hand(lines([9, 6, 9]));
  await card.getByRole('button', { name: 'Hand in take' }).click();
  await expect(card.getByRole('alert')).toContainText('is the same picture');
  await hand(lines([6, 6, 9]));
  await card.getByLabel('note with the take').fill('less pressure');
  await card.getByRole('button', { name: 'Hand in take' }).click();
  await expect(card).toHaveCount(0);
  await d.settled();
  expect(await d.names()).toEqual(['41_dov_1.png', '41_dov_2.png']);
  const next = (await d.rows()).find((r) => r.file === '41_dov_1.png') as Row;
  expect([next.id === one.id, next.again]).toEqual([false, true]);
  const view = await (await lead.get(`${base}/drawings/${next.id}`)).json();
  expect(view.handed).toEqual({ by: 'Dov Tarrant', note: 'less pressure' });
  expect(view.manifest).toMatchObject({ shot: '41', artist: 'dov', drawing: '1' });
  expect(view.earlier.pins).toMatchObject([{ text: 'thinner here', became: 'fixed' }]);
  // A second take of what has one is refused, and changes nothing.
  const late = await lead.post(`${base}/drawings/${one.id}/takes`, { multipart: { file: { name: 'x.png', mimeType: 'image/png', buffer: lines([3]) } } });
  expect([late.status(), (await late.json()).detail]).toEqual([409, expect.stringContaining('has a later take already')]);
});

test('what recurs at one place is marked as intended on all drawings at once, and undone at once', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const d = await delivery(base, page.request, 'recurring', '', { '1.png': lines([9, 6]), '2.png': lines([9, 6, 6]), '3.png': lines([6, 6, 9]) });
  const standing = async () => (await d.rows()).map((r) => r.standing);
  expect(await standing()).toEqual(['goes-back', 'goes-back', 'goes-back']);
  await page.goto(`/checks/${d.id}`);
  await page.getByRole('button', { name: /^1 heavy line/ }).click();
  // All that have it are chosen together, to be acted on at once.
  await page.getByRole('button', { name: 'Choose all drawings with it here' }).click();
  await expect(page.getByText('2 drawings, 1.png to 2.png')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Return 2 with a note' })).toBeVisible();
  await page.getByRole('button', { name: 'Clear choice' }).click();
  await page.getByRole('button', { name: 'Mark as intended…' }).click();
  await page.getByLabel('and at the same place on 1 other drawing').check();
  await page.getByLabel('why it is intended').fill('the rail');
  await page.keyboard.press('Enter');
  await expect(page.getByText('marked as intended on 2 drawings')).toBeVisible();
  expect(await standing()).toEqual(['may-go-on', 'may-go-on', 'goes-back']);
  await page.keyboard.press('Control+z');
  await expect.poll(standing).toEqual(['goes-back', 'goes-back', 'goes-back']);
  // What was returned and is marked as ready by mistake is again what it was, with all that went with it.
  const [, , third] = await d.rows();
  const back = {
    state: 'return',
    note: 'the lower one',
    strokes: [
      [
        [10, 20],
        [30, 40],
      ],
    ],
    fix: [{ kind: 'heavy', role: 'line' }],
  };
  await page.request.post(`${base}/deliveries/${d.id}/decisions`, { data: { drawings: [{ id: third?.id, seen: 0 }], ...back } });
  await page.goto(`/checks/of/${third?.id}`);
  await page.getByRole('button', { name: 'Mark as ready', exact: true }).click();
  await expect.poll(standing).toEqual(['goes-back', 'goes-back', 'handed-on']);
  await page.keyboard.press('Control+z');
  await expect.poll(standing).toEqual(['goes-back', 'goes-back', 'returned']);
  const { decisions } = await (await page.request.get(`${base}/drawings/${third?.id}`)).json();
  expect(decisions.at(-1)).toMatchObject(back);
});

test('a region left out of one drawing counts at once, goes with its next take, and is undone', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const d = await delivery(base, page.request, 'one region', '', { '1.png': lines([9, 6]), '2.png': lines([9, 6]) });
  const standing = async () => (await d.rows()).map((r) => r.standing);
  expect(await standing()).toEqual(['goes-back', 'goes-back']);
  const [one] = await d.rows();
  await page.goto(`/checks/of/${one?.id}`);
  const picture = page.getByLabel('drawing 1.png with its measured lines');
  await picture.waitFor();
  await page.getByRole('button', { name: 'leave out', exact: true }).click();
  const box = (await picture.boundingBox()) as { x: number; y: number; width: number; height: number };
  const k = Math.min(box.width / W, box.height / H);
  const at = (x: number, y: number) => [box.x + box.width / 2 + (x - W / 2) * k, box.y + box.height / 2 + (y - H / 2) * k] as const;
  await page.mouse.move(...at(5, 20));
  await page.mouse.down();
  await page.mouse.move(...at(300, 60), { steps: 4 });
  await page.mouse.move(...at(W - 5, 80), { steps: 4 });
  await page.mouse.up();
  const form = page.getByRole('form', { name: 'region to leave out' });
  await form.getByLabel('what lies there').fill('slate');
  await form.getByRole('button', { name: 'Leave region out' }).click();
  await expect(page.getByText('slate left out of 1.png')).toBeVisible();
  await expect.poll(standing).toEqual(['may-go-on', 'goes-back']);
  await expect(page.getByText('slate is left out of this drawing, Ilse Marrow')).toBeVisible();
  // The next take is as heavy there, and passes too.
  await page.request.post(`${base}/deliveries/${d.id}/drawings`, { multipart: { file: { name: '001.png', mimeType: 'image/png', buffer: lines([9, 6, 6]) } } });
  await d.settled();
  const next = (await d.rows()).find((r) => r.file === '001.png') as Row;
  expect([next.again, next.standing]).toEqual([true, 'may-go-on']);
  await page.goto(`/checks/of/${next.id}`);
  await page.getByRole('button', { name: 'Check slate again' }).click();
  await expect.poll(async () => (await d.rows()).find((r) => r.id === next.id)?.standing).toBe('goes-back');
});
