// Open icon and pictogram sets, each drawn by many hands to one published line weight: lucide-static (2 on 24), the outlines of
// heroicons (1.5 on 24), and OpenMoji as line drawings and painted (2 on 72, CC BY-SA 4.0; for the test only).
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';

const SETS = [
  { name: 'lucide', source: 'node_modules/lucide-static/icons', side: 24, weight: 2 },
  { name: 'heroicons', source: 'node_modules/heroicons/24/outline', side: 24, weight: 1.5 },
  { name: 'OpenMoji', source: 'node_modules/openmoji/black/svg', side: 72, weight: 2 },
  { name: 'OpenMoji painted', source: 'node_modules/openmoji/color/svg', side: 72, weight: 2, colour: '#000000' },
];

for (const { name, source, side, weight, colour } of SETS)
  test(`the drawings of ${name} weigh what their makers say`, () => {
    const folder = mkdtempSync(join(tmpdir(), 'icons-'));
    // Those whose lines all state the weight, and none of it by another stroke, by a scale or by filled outlines.
    const plain = (svg: string) => {
      const stated = [...svg.matchAll(/stroke-width="([^"]+)"/g)].map((m) => Number(m[1]));
      return stated.length > 0 && (colour || stated.every((w) => w === weight)) && !/transform|scale|style=|<use|<text/.test(svg);
    };
    const all = readdirSync(source)
      .filter((n) => n.endsWith('.svg'))
      .map((n) => [n, readFileSync(join(source, n), 'utf8').replaceAll('currentColor', '#000000')] as const)
      .filter(([, svg]) => plain(svg));
    const chosen = all.filter((_, i) => i % Math.ceil(all.length / 60) === 0);
    const guide = join(folder, 'guide.json');
    for (const [n, svg] of chosen) writeFileSync(join(folder, n), svg);
    const from = colour ? { colour, tolerance: 10 } : { rest: true };
    const role = { name: 'line', from, weight_px: { target: weight, tolerance: 0.05 } };
    const page = { width_px: side, height_px: side };
    writeFileSync(guide, JSON.stringify({ format: 'eddymist/line-guide', version: 1, name: 'icons', page, roles: [role] }));
    const binary = process.env.EDDYMIST_BIN ?? '../target/release/eddymist';
    const out = execFileSync(binary, ['check', '--guide', guide, folder, '--json'], { maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] });
    const check = JSON.parse(out.toString());
    const found: { verdict: string; weight_px?: { mean: number } }[] = check.drawings.flatMap((d: { roles: unknown[] }) => d.roles);
    const means = found.flatMap((r) => (r.weight_px ? [r.weight_px.mean] : []));
    const off = means.map((m) => Math.abs(m - weight)).sort((a, b) => a - b);
    // The others are all ends, crossings and tight bends, where no weight is measured, or too close to the limit to say.
    const told = found.filter((r) => !['not-checked', 'too-close'].includes(r.verdict));
    const within = told.filter((r) => r.verdict === 'within').length;
    console.log(
      `${name}: ${told.length} of ${chosen.length} drawings with a verdict, ${within} within; off by ${off[Math.floor(off.length / 2)]} px in the median, ${off[Math.floor(off.length * 0.95)]} at the 95th, ${off[off.length - 1]} at worst`,
    );
    expect(means.length).toBeGreaterThan(40);
    expect(told.length / chosen.length).toBeGreaterThan(0.85);
    expect(within / told.length).toBeGreaterThan(0.95);
    expect(off[Math.floor(off.length / 2)]).toBeLessThan(0.02);
    expect(off[Math.floor(off.length * 0.95)]).toBeLessThan(0.1);
  });
