// A file that could not be read, or has no ink, is returned with a note like any drawing, is never ready, and the return can be undone.
import { expect, test } from '@playwright/test';
import { png } from './files';
import { signIn } from './people';

test('what could not be read is returned with a note, and is never ready', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const role = { name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.2 } };
  const guide = { format: 'eddymist/line-guide', version: 1, name: 'unreadable', page: { width_px: 400, height_px: 300 }, roles: [role] };
  const { id: guide_id } = await (await page.request.post(`${base}/guides`, { data: guide })).json();
  const { id } = await (await page.request.post(`${base}/deliveries`, { data: { name: 'unreadable', guide_id, pattern: '' } })).json();
  const url = `${base}/deliveries/${id}`;
  for (const [name, buffer] of [
    ['a.png', png(400, 300, (x, y) => x > 40 && x < 360 && y % 60 < 6)],
    ['b.png', Buffer.from('no picture at all')],
    ['c.png', png(400, 300, () => false)],
  ] as const)
    await page.request.post(`${url}/drawings`, { multipart: { file: { name, mimeType: 'image/png', buffer } } });
  type Row = { id: string; file: string; standing: string };
  const rows = async (): Promise<Row[]> => (await (await page.request.get(url)).json()).drawings;
  await expect.poll(async () => (await rows()).map((d) => d.standing).join(' ')).toBe('may-go-on failed failed');
  const [, broken, empty] = await rows();
  const ready = await page.request.post(`${url}/decisions`, { data: { drawings: [{ id: broken?.id, seen: 0 }], state: 'ready', note: '', strokes: [] } });
  expect([ready.status(), await ready.text()]).toEqual([409, expect.stringContaining('could not be read')]);
  await page.goto(`/checks/of/${empty?.id}`);
  await page.getByText('2 files could not be read').click();
  await page.getByRole('button', { name: 'b.png', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'b.png' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Mark as ready', exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Return with a note…' }).click();
  await page.getByLabel('note to the artist').fill('a PNG, please');
  await page.getByRole('button', { name: 'Return drawing' }).click();
  await expect(page.getByText('1 file could not be read')).toBeVisible();
  expect((await rows()).map((d) => d.standing)).toEqual(['may-go-on', 'returned', 'failed']);
  await expect(page.getByText('“a PNG, please”')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(page.getByText('2 files could not be read')).toBeVisible();
  expect((await rows()).map((d) => d.standing)).toEqual(['may-go-on', 'failed', 'failed']);
});
