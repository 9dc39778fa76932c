// A database of an older edition brought up to date: what stood in the wording of messages and names stands in columns, and nothing is lost.
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { resolve } from 'node:path';
import { expect, test } from '@playwright/test';
import { Cluster } from './ownServer';

const FOLDER = resolve(import.meta.dirname, '../../app/store/migrations');
const cluster = new Cluster();
test.beforeAll(() => cluster.start());
test.afterAll(() => cluster.remove());

/** Runs the migrations from one number to another. */
function migrate(from: string, to: string) {
  const files = readdirSync(FOLDER).filter((f) => f >= from && f.slice(0, 4) <= to);
  for (const f of files) execFileSync('psql', ['-q', '-v', 'ON_ERROR_STOP=1', cluster.url, '-f', resolve(FOLDER, f)]);
  return files.length;
}

test('takes, refused files and what trial pages are made of are known after the change as before', () => {
  expect(migrate('0001', '0007')).toBe(7);
  const id = (k: number) => `00000000-0000-0000-0000-${String(k).padStart(12, '0')}`;
  const [member, production, guide, here, there, brush] = [1, 2, 3, 4, 5, 6].map(id);
  const drawing = (k: number, delivery: string | undefined, file: string, subject: string, state: string, message: string | null) =>
    `INSERT INTO drawings (id, delivery_id, file, sha256, manifest, subject, state, message, added_at) VALUES
     ('${id(k)}', '${delivery}', '${file}', 'a', '{}', '${subject}', '${state}', ${message ? `'${message}'` : 'NULL'}, '2026-01-${k}T00:00:00Z')`;
  const page = { width_px: 10, height_px: 10, px_per_mm: 1, rough: 'r', neighbours: ['n', 'm'], strokes: [{ brush_id: brush }, { brush_id: brush }] };
  cluster.psql(
    [
      `INSERT INTO members (id, name, email, password_hash) VALUES ('${member}', 'A', 'a@studio.example', 'x')`,
      `INSERT INTO productions (id, name) VALUES ('${production}', 'P')`,
      `INSERT INTO guides (id, production_id, current_version) VALUES ('${guide}', '${production}', 1)`,
      ...[here, there].map(
        (d) => `INSERT INTO deliveries (id, production_id, name, pattern, guide_id, guide_version, created_by)
           VALUES ('${d}', '${production}', '${d}', '', '${guide}', 1, '${member}')`,
      ),
      `INSERT INTO images (sha256, media_type, bytes) VALUES ('a', 'image/png', '')`,
      drawing(10, here, 'x.png', 'name:x.png', 'done', null),
      drawing(11, here, 'b/x.png', 'name:x.png', 'done', null),
      // The same name in another delivery is another drawing; the same shot and number is a take wherever it lies.
      drawing(12, there, 'x.png', 'name:x.png', 'done', null),
      drawing(13, here, 's.png', '012||7', 'done', null),
      drawing(14, there, 't.png', '012||7', 'done', null),
      drawing(15, here, 'u.txt', 'name:u.txt', 'failed', 'not taken in: this is no picture'),
      drawing(16, here, 'v.png', 'name:v.png', 'failed', 'this drawing is empty'),
      `INSERT INTO trial_pages (id, production_id, name, page, revision, created_by)
       VALUES ('${id(20)}', '${production}', 'T', '${JSON.stringify(page)}', 1, '${member}')`,
    ].join(';\n'),
  );
  expect(migrate('0008', '0008')).toBe(1);
  const pairs = cluster.psql(`SELECT right(earlier::text, 2) || '>' || right(later::text, 2) FROM takes ORDER BY 1`).split('\n');
  expect(pairs).toEqual(['10>11', '13>14']);
  expect(cluster.psql(`SELECT right(id::text, 2) FROM drawings WHERE refused`)).toBe('15');
  expect(cluster.psql(`SELECT subject, by_name FROM drawings WHERE file = 'x.png' LIMIT 1`)).toBe('x.png|t');
  expect(cluster.psql(`SELECT count(*) FROM drawings WHERE subject LIKE 'name:%'`)).toBe('0');
  expect(cluster.psql(`SELECT brushes, (SELECT array_agg(p ORDER BY p) FROM unnest(pictures) p) FROM trial_pages`)).toBe(`{${brush}}|{m,n,r}`);
});
