// Regions that a lead leaves out: drawn on a drawing, kept in the guide, and neither measured nor found fault with at the next check.
import { expect, test } from '@playwright/test';
import { signIn } from './people';

test('what is left out on a drawing is in the guide, and counts when the delivery is checked again', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const [guide] = await (await page.request.get(`${base}/guides`)).json();
  const deliveries = (await (await page.request.get(`${base}/deliveries`)).json()) as { id: string }[];
  // A drawing with a finding that has a place.
  let found: { delivery: string; drawing: string; file: string; x: number; y: number; width: number; height: number } | undefined;
  for (const d of deliveries) {
    const rows = (await (await page.request.get(`${base}/deliveries/${d.id}`)).json()).drawings as { id: string; file: string }[];
    for (const r of rows.slice(0, 12)) {
      const { check } = await (await page.request.get(`${base}/drawings/${r.id}`)).json();
      const f = check?.findings?.[0];
      if (f && !found) found = { delivery: d.id, drawing: r.id, file: r.file, x: f.x, y: f.y, width: check.width_px, height: check.height_px };
    }
    if (found) break;
  }
  if (!found) throw new Error('no drawing has a finding');
  await page.goto(`/checks/of/${found.drawing}`);
  const picture = page.getByLabel(`drawing ${found.file} with its measured lines`);
  await picture.waitFor();
  await page.getByRole('button', { name: 'leave out', exact: true }).click();
  await expect(page.getByText('Drag a rectangle, or draw round what is to be left out')).toBeVisible();
  const box = (await picture.boundingBox()) as { x: number; y: number; width: number; height: number };
  // The whole drawing is seen: what is dragged is about the finding.
  const k = Math.min(box.width / found.width, box.height / found.height);
  const at = (x: number, y: number) => [box.x + box.width / 2 + (x - found.width / 2) * k, box.y + box.height / 2 + (y - found.height / 2) * k] as const;
  const [l, t] = at(Math.max(2, found.x - 90), Math.max(2, found.y - 70));
  const [r, b] = at(Math.min(found.width - 2, found.x + 90), Math.min(found.height - 2, found.y + 70));
  await page.mouse.move(l, t);
  await page.mouse.down();
  await page.mouse.move((l + r) / 2, (t + b) / 2, { steps: 4 });
  await page.mouse.move(r, b, { steps: 4 });
  await page.mouse.up();
  const form = page.getByRole('form', { name: 'region to leave out' });
  await form.getByLabel('what lies there').fill('a stamp');
  if (await form.getByLabel('on every drawing').count()) await form.getByLabel('on every drawing').check();
  await form.getByRole('button', { name: 'Leave region out' }).click();
  await expect(form).toHaveCount(0);
  const [now] = await (await page.request.get(`${base}/guides`)).json();
  expect([now.version, now.guide.left_out.length]).toEqual([guide.version + 1, (guide.guide.left_out ?? []).length + 1]);
  const region = now.guide.left_out[now.guide.left_out.length - 1];
  expect(region.name).toBe('a stamp');
  // It does not count until the delivery is checked again; then nothing lies in it.
  await page.getByRole('button', { name: `Check again with version ${now.version}` }).click();
  const [xs, ys] = [0, 1].map((i) => region.points.map((q: number[]) => q[i]) as number[]);
  await expect(async () => {
    const { check } = await (await page.request.get(`${base}/drawings/${found.drawing}`)).json();
    expect(check.left_out.map((q: { name: string }) => q.name)).toContain('a stamp');
    const s = check.scale;
    const inside = (f: { x: number; y: number }) =>
      f.x > s * Math.min(...(xs ?? [])) && f.x < s * Math.max(...(xs ?? [])) && f.y > s * Math.min(...(ys ?? [])) && f.y < s * Math.max(...(ys ?? []));
    expect(check.findings.filter(inside)).toEqual([]);
  }).toPass({ timeout: 60_000 });
  await expect(page.getByText('a stamp, left out')).toBeVisible({ timeout: 20_000 });
  // On the guide's page it is renamed, and taken out again.
  await page.goto('/guides');
  const regions = page.getByRole('region', { name: 'regions left out' });
  const last = now.guide.left_out.length;
  await regions.getByLabel(`what lies in region ${last}`).fill('a rubber stamp');
  await regions.getByLabel(`what lies in region ${last}`).blur();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(regions.getByLabel(`what lies in region ${last}`)).toHaveValue('a stamp');
  await regions.getByLabel(`Remove region ${last}`).click();
  await page.getByRole('button', { name: `Save as version ${now.version + 1}` }).click();
  await expect(page.getByRole('button', { name: `Save as version ${now.version + 2}` })).toBeVisible();
  expect(((await (await page.request.get(`${base}/guides`)).json())[0].guide.left_out ?? []).map((q: { name: string }) => q.name)).not.toContain('a stamp');
});
