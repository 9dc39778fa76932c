// An open icon set, drawn by many hands to one published line weight: every icon of lucide-static states stroke-width 2 on 24×24.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';

test('the icons weigh what their makers say', () => {
  const folder = mkdtempSync(join(tmpdir(), 'icons-'));
  const source = 'node_modules/lucide-static/icons';
  const names = readdirSync(source).filter((n) => n.endsWith('.svg'));
  const chosen = names.filter((_, i) => i % Math.ceil(names.length / 60) === 0);
  for (const n of chosen) writeFileSync(join(folder, n), readFileSync(join(source, n), 'utf8').replaceAll('currentColor', '#000000'));
  const guide = join(folder, 'guide.json');
  const role = { name: 'line', from: { rest: true }, weight_px: { target: 2, tolerance: 0.05 } };
  writeFileSync(guide, JSON.stringify({ format: 'eddymist/line-guide', version: 1, name: 'icons', page: { width_px: 24, height_px: 24 }, roles: [role] }));
  const binary = process.env.EDDYMIST_BIN ?? '../target/release/eddymist';
  const out = execFileSync(binary, ['check', '--guide', guide, folder, '--json'], { maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] });
  const check = JSON.parse(out.toString());
  const means: number[] = check.drawings
    .map((d: { roles: { weight_px?: { mean: number } }[] }) => d.roles[0]?.weight_px?.mean)
    .filter((m?: number) => m !== undefined);
  const off = means.map((m) => Math.abs(m - 2)).sort((a, b) => a - b);
  console.log(`${means.length} icons: off by ${off[Math.floor(off.length / 2)]} px in the median, ${off[off.length - 1]} at worst`);
  expect(means.length).toBeGreaterThan(40);
  expect(off[Math.floor(off.length / 2)]).toBeLessThan(0.02);
  expect(off[Math.floor(off.length * 0.95)]).toBeLessThan(0.1);
});
