// A lead's whole day: 24 drawings as artists hand them in, with slates, a rough beneath, fills, blacks, a file that is a slate and a photo.
// What is in the way of each is taken out of it, what is wrong goes back, an artist hands in again, and all is decided. It makes a guide and a
// delivery of its own, so it comes after those that look at the demo.
import { expect, test } from '@playwright/test';
import { zip } from './files';
import { asMember, place, signIn } from './people';

test.setTimeout(180_000);
const PLANTED = { 'A-0003.png': 'heavy', 'A-0006.png': 'thin', 'A-0009.png': 'heavy', 'A-0012.jpg': 'gap', 'A-0015.png': 'pinhole', 'A-0018.png': 'hook' };
type Row = { id: string; file: string; standing: string; manifest: Record<string, string> };

test('a delivery as artists hand it in, from the drop to all decided', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const day = await (await page.request.get(`${base}/stand-ins/delivery`)).body();
  const guide = await (await page.request.get(`${base}/stand-ins/delivery-guide`)).json();
  // The slate lies in the corner of every page: the guide leaves it out from the beginning.
  const slate = {
    name: 'slate',
    points: [
      [0, 0],
      [330, 0],
      [330, 110],
      [0, 110],
    ],
  };
  await page.request.post(`${base}/guides`, { data: { ...guide, name: 'The day', left_out: [slate] } });
  await place(page, 'Checks');
  await page.getByLabel('drawings', { exact: true }).setInputFiles({ name: 'day.zip', mimeType: 'application/zip', buffer: day });
  await page.getByLabel('Name of the delivery').fill('The whole day');
  await page.getByLabel('Name pattern').fill('');
  await page.getByLabel('Line guide').selectOption({ label: 'The day' });
  await page.getByRole('button', { name: 'Check 1 ZIP' }).click();
  await expect(page.getByRole('heading', { name: 'The whole day' })).toBeVisible();
  const id = new URL(page.url()).pathname.split('/').pop();
  const url = `${base}/deliveries/${id}`;
  const rows = async () => (await (await page.request.get(url)).json()).drawings as Row[];
  const name = (d: Row) => d.file.replace(/^.*\//, '');
  const of = async (file: string) => (await rows()).find((d) => name(d) === file) as Row;
  await expect.poll(async () => (await rows()).filter((d) => d.standing !== 'waiting').length, { timeout: 120_000 }).toBe(24);

  // The manifest in the archive says who drew what; the six faults are found, each on its drawing and nowhere else.
  expect((await of('A-0003.png')).manifest).toMatchObject({ artist: 'ilse', shot: '060', drawing: 'A-0003' });
  const back = (await rows()).filter((d) => d.standing === 'goes-back');
  for (const d of back) {
    const { check } = await (await page.request.get(`${base}/drawings/${d.id}`)).json();
    const kinds = [...new Set(check.findings.filter((f: { must_mend: boolean }) => f.must_mend).map((f: { kind: string }) => f.kind))];
    expect([name(d), ...kinds]).toEqual([name(d), PLANTED[name(d) as keyof typeof PLANTED]]);
  }
  expect(back.map(name).sort()).toEqual(Object.keys(PLANTED).sort());
  // A photo is said to be one, once; the slate's own file has nothing to check.
  const photo = await (await page.request.get(`${base}/drawings/${(await of('A-0023.jpg')).id}`)).json();
  expect([photo.check.source.kind, photo.check.findings, photo.check.why.slice(0, 15)]).toEqual(['photo', [], 'This is a photo']);
  await page.goto(`/checks/of/${(await of('slate.png')).id}`);
  await page.getByRole('button', { name: 'Mark as no drawing' }).click();
  await expect(page.getByText('1 file is no drawing: not in any count')).toBeVisible();

  // By keyboard: what passes is marked at once, what is not goes back with a note, each found by the same key.
  await page.getByRole('button', { name: /^Mark \d+ as ready$/ }).click();
  await expect(page.getByText(/drawings marked as ready/)).toBeVisible();
  const left = async () => (await rows()).filter((d) => !['handed-on', 'returned'].includes(d.standing)).length;
  for (let n = await left(); n > 0; n--) {
    await page.keyboard.press('u');
    await expect(page.locator('[role=option][aria-selected=true]')).toHaveAttribute('aria-label', /needs fixes|not checked/);
    await page.keyboard.press('2');
    await page.getByLabel('note to the artist').fill(`again, please: ${n}`);
    await page.keyboard.press('Control+Enter');
    await expect(page.getByLabel('note to the artist')).toHaveCount(0);
    await expect.poll(left).toBe(n - 1);
  }
  await expect(page.getByText(/^All decided: \d+ returned$/)).toBeVisible();

  // Notes go out to who does not sign in; one of them hands in again under the number alone, and it is known whose it is.
  const notes = await (await page.request.get(`${url}/notes/ilse`)).body();
  expect(notes.subarray(0, 5).toString()).toBe('%PDF-');
  const lead = await asMember('ilse@nighttram.example');
  const clean = await (
    await lead.get(`${base}/images/${((await (await lead.get(`${base}/drawings/${(await of('A-0001.png')).id}`)).json()) as { sha256: string }).sha256}`)
  ).body();
  await lead.post(`${url}/drawings`, { multipart: { file: { name: 'again.zip', mimeType: 'application/zip', buffer: zip([['fixed/3.png', clean]]) } } });
  await page.reload();
  await expect(page.getByText(/^1 drawing to decide on|^1 drawing still to measure/)).toBeVisible();
  // Its folder is another: it is asked, once, and then it is the next take.
  const came = async () => (await rows()).find((d) => d.file === 'again.zip/fixed/3.png') as Row;
  await page.goto(`/checks/of/${(await came()).id}`);
  await page.getByRole('region', { name: 'whose next take' }).getByText('day.zip/A-0003.png').click();
  await expect.poll(async () => (await came()).standing).toBe('may-go-on');
  expect((await came()).manifest).toMatchObject({ artist: 'ilse', drawing: 'A-0003' });
  expect(await rows()).toHaveLength(23);
});
