// Two scans of a sequence lie otherwise on the glass: the previous one is laid on this one before it is shown through, and by how much is said.
import { expect, test } from '@playwright/test';
import { png } from './files';
import { signIn } from './people';

const [W, H] = [960, 540];
const LINES = [
  [100, 120, 800, 150],
  [120, 430, 820, 400],
  [160, 100, 190, 470],
  [300, 200, 700, 380],
] as const;

/** The sheet turned by so many degrees about its middle, then shifted. */
const scan = (dx: number, dy: number, degrees: number) => {
  const [s, c] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
  return png(W, H, (x, y) => {
    const [u, v] = [x + 0.5 - W / 2 - dx, y + 0.5 - H / 2 - dy];
    const [px, py] = [W / 2 + u * c + v * s, H / 2 - u * s + v * c];
    return LINES.some(([ax, ay, bx, by]) => {
      const t = Math.min(1, Math.max(0, ((px - ax) * (bx - ax) + (py - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)));
      return Math.hypot(px - ax - t * (bx - ax), py - ay - t * (by - ay)) < 3;
    });
  });
};

test('the previous scan is shown lying on this one, and its shift is said', async ({ page }) => {
  const base = await signIn(page, 'Ilse Marrow');
  const role = { name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.2 } };
  const guide = { format: 'eddymist/line-guide', version: 1, name: 'scans', page: { width_px: W, height_px: H }, picture_kind: 'scan', roles: [role] };
  const { id: guide_id } = await (await page.request.post(`${base}/guides`, { data: guide })).json();
  const { id } = await (await page.request.post(`${base}/deliveries`, { data: { name: 'scans', guide_id, pattern: '' } })).json();
  const url = `${base}/deliveries/${id}`;
  for (const [name, picture] of [
    ['scan_0001.png', scan(0, 0, 0)],
    ['scan_0002.png', scan(-14, 9, 0.8)],
  ] as const)
    await page.request.post(`${url}/drawings`, { multipart: { file: { name, mimeType: 'image/png', buffer: picture } } });
  let rows: { id: string; standing: string }[] = [];
  await expect
    .poll(async () => {
      rows = (await (await page.request.get(url)).json()).drawings;
      return rows.filter((d) => d.standing === 'waiting').length + (rows.length === 2 ? 0 : 2);
    })
    .toBe(0);
  await page.goto(`/checks/of/${rows[1]?.id}`);
  const picture = page.getByLabel('drawing scan_0002.png with its measured lines');
  await picture.waitFor();
  await page.getByRole('button', { name: 'previous', exact: true }).click();
  await expect(page.getByText(/The previous drawing is laid on this scan by its lines: shifted 16\.\d px, turned 0\.80°/)).toBeVisible();
  // Every line of it lies on one of this scan's, to a pixel of the screen.
  const boxes = await picture.evaluate((svg) => {
    const of = (paths: Iterable<Element>) => [...paths].map((p) => p.getBoundingClientRect()).map((b) => [b.left, b.top, b.right, b.bottom]);
    return { ghosts: of(svg.querySelectorAll('g[opacity="0.5"] > path')), own: of(svg.querySelectorAll(':scope > path')) };
  });
  const hull = (all: number[][]) => [0, 1, 2, 3].map((i) => Math[i < 2 ? 'min' : 'max'](...all.map((b) => b[i] ?? 0)));
  expect(boxes.ghosts.length).toBeGreaterThan(3);
  hull(boxes.ghosts).forEach((v, i) => {
    expect(Math.abs(v - (hull(boxes.own)[i] ?? 0))).toBeLessThan(1.5);
  });
  // Where it cannot be laid, it is shown as it lies, and that is said.
  await page.route('**/laid-on/**', (route) =>
    route.fulfill({ status: 422, contentType: 'application/problem+json', body: '{"title":"too large to be laid"}' }),
  );
  await page.reload();
  await picture.waitFor();
  await page.getByRole('button', { name: 'previous', exact: true }).click();
  await expect(page.getByText(/The previous drawing could not be laid on this scan \(.+\): it is shown as it lies/)).toBeVisible();
  await expect(picture.locator('g[opacity="0.5"]').first()).toBeAttached();
});
