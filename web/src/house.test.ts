// The house: no two files import one another, and a place knows no other place, only what lies below all of them.
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';

const SRC = dirname(fileURLToPath(import.meta.url));
const PLACES = ['desk', 'pens', 'tablets', 'brushes', 'trial', 'guides', 'checks', 'team', 'account'];
/** From the ground up; what stands in the folder itself (frame, session) is known by its own name. */
const FLOORS = [['api'], ['engine', 'session'], ['parts'], ['lanes'], PLACES, ['App', 'main']];

const files = (dir: string): string[] =>
  readdirSync(dir).flatMap((name) => {
    const path = join(dir, name);
    if (statSync(path).isDirectory()) return name === 'tests' ? [] : files(path);
    return /\.tsx?$/.test(name) && !/\.(test|d)\.tsx?$/.test(name) ? [path] : [];
  });
const all = files(SRC);

/** The files that a file imports, types too. */
function imports(file: string): string[] {
  const specs = [...readFileSync(file, 'utf8').matchAll(/(?:from|import)\s*\(?\s*'(\.[^']*)'/g)].map((m) => join(dirname(file), m[1] ?? ''));
  return specs.flatMap((s) => all.find((f) => f === `${s}.ts` || f === `${s}.tsx`) ?? []);
}
const graph = new Map(all.map((f) => [f, imports(f)]));
const name = (file: string) => relative(SRC, file).replace(/\.tsx?$/, '');

test('no two files import one another, also not by way of a third', () => {
  expect(all.length).toBeGreaterThan(60);
  const done = new Set<string>();
  const walk = (file: string, way: string[]): string[] | null => {
    if (way.includes(file)) return [...way.slice(way.indexOf(file)), file].map(name);
    if (done.has(file)) return null;
    for (const to of graph.get(file) ?? []) {
      const circle = walk(to, [...way, file]);
      if (circle) return circle;
    }
    done.add(file);
    return null;
  };
  for (const file of all) expect(walk(file, [])).toBeNull();
});

test('a file imports nothing above it, and a place nothing of another place', () => {
  const room = (file: string) => name(file).split('/')[0] ?? '';
  const floor = (file: string) => FLOORS.findIndex((f) => f.includes(room(file)));
  for (const [file, to] of graph) {
    expect(floor(file), `${name(file)} is in no room`).toBeGreaterThanOrEqual(0);
    for (const other of to) {
      const fits = PLACES.includes(room(file)) && PLACES.includes(room(other)) ? room(file) === room(other) : floor(file) >= floor(other);
      expect(fits, `${name(file)} imports ${name(other)}`).toBe(true);
    }
  }
});
