// An open stroke-order data set (hanzi-writer-data, from Arphic's fonts): the middle lines of written characters, inked by the
// command and weighed again by the check. Thousands of strokes that no one drew for us.
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';

test('written characters, inked, weigh what the brush says', () => {
  const folder = mkdtempSync(join(tmpdir(), 'strokes-'));
  const drawings = join(folder, 'drawings');
  mkdirSync(drawings);
  const source = 'node_modules/hanzi-writer-data';
  const names = readdirSync(source).filter((n) => /^\p{Script=Han}\.json$/u.test(n));
  const chosen = names.filter((_, i) => i % Math.ceil(names.length / 24) === 0);
  const binary = process.env.EDDYMIST_BIN ?? '../target/release/eddymist';
  const [brush, paths, guide] = ['brush.json', 'paths.svg', 'guide.json'].map((n) => join(folder, n)) as [string, string, string];
  const mm = 0.6;
  writeFileSync(
    brush,
    JSON.stringify({
      format: 'eddymist/brush',
      version: 1,
      name: 'written',
      nib: { shape: 'round' },
      weight: [
        [0, mm],
        [1, mm],
      ],
    }),
  );
  // A character is 1,024 units high, its y upward from a base line at 124; here it is 30 mm.
  for (const [i, name] of chosen.entries()) {
    const { medians } = JSON.parse(readFileSync(join(source, name), 'utf8')) as { medians: [number, number][][] };
    const d = medians.map((m) => `M${m.map(([x, y]) => `${((x * 30) / 1024).toFixed(3)} ${(((900 - y) * 30) / 1024).toFixed(3)}`).join('L')}`).join('');
    writeFileSync(
      paths,
      `<svg xmlns="http://www.w3.org/2000/svg" width="32mm" height="32mm" viewBox="-1 -1 32 32"><path fill="none" stroke="#000" d="${d}"/></svg>`,
    );
    const out = join(drawings, `${i}.png`);
    execFileSync(binary, ['ink', '--brush', brush, '--paths', paths, '--course', 'even', '--dpi', '300', '--out', out], { stdio: 'ignore' });
  }
  const px = (mm * 300) / 25.4;
  // Each picture is cut to its ink, and the guide's px are its page's: a wide target keeps the smallest from being taken for a black.
  const role = { name: 'line', from: { rest: true }, weight_px: { target: 4 * px, tolerance: 0.05 } };
  const page = { width_px: 400, height_px: 400 };
  writeFileSync(guide, JSON.stringify({ format: 'eddymist/line-guide', version: 1, name: 'written', page, roles: [role], scale_by_shot: {} }));
  const out = execFileSync(binary, ['check', '--guide', guide, drawings, '--json'], { maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] });
  type Role = { weight_px?: { mean: number }; measured_share: number };
  const roles: Role[] = JSON.parse(out.toString()).drawings.flatMap((d: { width_px: number; roles: Role[] }) =>
    d.roles.map((r) => ({ ...r, weight_px: r.weight_px && { mean: r.weight_px.mean } })),
  );
  const off = roles.flatMap((r) => (r.weight_px ? [Math.abs(r.weight_px.mean - px)] : [])).sort((a, b) => a - b);
  console.log(`${off.length} characters: off by ${off[Math.floor(off.length / 2)]?.toFixed(4)} px in the median, ${off[off.length - 1]?.toFixed(4)} at worst`);
  expect(off.length).toBe(chosen.length);
  expect(off[Math.floor(off.length / 2)]).toBeLessThan(0.02);
  expect(off[off.length - 1]).toBeLessThan(0.1);
});
