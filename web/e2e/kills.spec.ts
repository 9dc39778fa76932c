// Server, worker, a picture's reader and PostgreSQL are killed (kill -9) at moments by chance while drawings come in, are measured, decided
// on, and a trial page is drawn. Nothing that was acknowledged is lost, and nothing is there twice. Ten rounds here; bench/kills.sh has 200.
import { type ChildProcess, spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { png } from './files';
import { Cluster, PROGRAM, Server } from './ownServer';

test.skip(!PROGRAM, 'needs the program');
const ROUNDS = Number(process.env.EDDYMIST_KILLS ?? 10);
const PASSWORD = 'a kettle of gulls';
const seed = Number(process.env.EDDYMIST_KILLS_SEED ?? 20260117);
test.setTimeout(120_000 + ROUNDS * 30_000);

// Marsaglia's xorshift, from memory: chance that is the same in every run.
let state = seed >>> 0 || 1;
const chance = (below: number) => {
  state ^= state << 13;
  state ^= state >>> 17;
  state ^= state << 5;
  return (state >>> 0) % below;
};
const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));

test(`nothing acknowledged is lost and nothing is there twice over ${ROUNDS} kills`, async () => {
  const cluster = new Cluster();
  cluster.start();
  const server = new Server(cluster.url);
  let worker: ChildProcess | undefined;
  const work = () => {
    worker = spawn(PROGRAM, ['worker'], { env: { ...process.env, DATABASE_URL: cluster.url }, stdio: 'ignore' });
  };
  await server.start();
  work();
  const kills: Record<string, number> = { server: 0, worker: 0, reader: 0, database: 0 };
  try {
    const { lead, p } = await server.first(PASSWORD);
    const who: APIRequestContext = lead;
    /** Asked until it is answered; what was refused for another reason than a server that is away is an error. */
    const asked = async (method: string, url: string, options: object): Promise<{ status: number; body: unknown } | null> => {
      try {
        const answer = await who.fetch(`${p}${url}`, { method, ...options, timeout: 20_000 });
        if (answer.status() >= 500) return null;
        return { status: answer.status(), body: await answer.json() };
      } catch {
        return null;
      }
    };
    const made = async (url: string, data: object) => {
      for (;;) {
        const a = await asked('POST', url, { data });
        if (a) return (a.body as { id: string }).id;
        await rest(200);
      }
    };
    const role = { name: 'line', from: { colour: '#1e1e1e', tolerance: 12 }, weight_px: { target: 4, tolerance: 0.2 }, ends: 'any' };
    const guide = {
      format: 'eddymist/line-guide',
      version: 1,
      name: 'g',
      page: { width_px: 240, height_px: 160 },
      finish: 'hard',
      roles: [role],
      must_mend: [],
    };
    const guideId = await made('/guides', guide);
    const delivery = await made('/deliveries', { name: 'under fire', guide_id: guideId, pattern: '' });
    const page = { width_px: 200, height_px: 100, px_per_mm: 6, strokes: [] };
    const trial = await made('/trials', { name: 'under fire', page });
    const [taken, decided] = [new Set<string>(), new Map<string, number>()];
    let revision = 1;
    let n = 0;
    let over = false;

    const drawing = (k: number) => png(240, 160, (x, y) => Math.abs(y - 40 - ((k * 7 + x * (k % 5)) % 80)) < 2);
    const sending = async () => {
      while (!over) {
        const k = n++;
        const file = `${String(k).padStart(4, '0')}.png`;
        const multipart = { file: { name: file, mimeType: 'image/png', buffer: drawing(k) } };
        while (!over) {
          const a = await asked('POST', `/deliveries/${delivery}/drawings`, { multipart });
          if (a?.status === 200) {
            taken.add(file);
            break;
          }
          if (a && a.status !== 401) throw new Error(`${file}: ${JSON.stringify(a)}`);
          await rest(150);
        }
        await rest(100);
      }
    };
    const drawingOn = async () => {
      while (!over) {
        const a = await asked('PUT', `/trials/${trial}`, { data: { page, from_revision: revision } });
        if (a?.status === 200) revision = (a.body as { revision: number }).revision;
        // Kept, though the answer was lost: that is no loss, and the page would show both.
        else if (a?.status === 409) revision = (a.body as { current: { revision: number } }).current.revision;
        await rest(120);
      }
    };
    const deciding = async () => {
      while (!over) {
        const a = await asked('GET', `/deliveries/${delivery}`, {});
        const drawings = (a?.body as { drawings?: { id: string; standing: string; decision: { number: number } | null }[] } | undefined)?.drawings ?? [];
        const open = drawings.filter((d) => !['waiting', 'failed'].includes(d.standing))[chance(Math.max(1, drawings.length))];
        if (open) {
          const seen = open.decision?.number ?? 0;
          const b = await asked('POST', `/deliveries/${delivery}/decisions`, {
            data: { drawings: [{ id: open.id, seen }], state: 'ready', note: '', strokes: [] },
          });
          if (b?.status === 200) decided.set(open.id, Math.max(decided.get(open.id) ?? 0, seen + 1));
        }
        await rest(200);
      }
    };
    const clients = [sending(), sending(), drawingOn(), deciding()];

    const isReader = (pid: number) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'utf8') === '/proc/self/exe\0read\0';
      } catch {
        return false;
      }
    };
    const readers = () =>
      readdirSync('/proc')
        .map(Number)
        .filter((pid) => pid > 0 && isReader(pid));
    for (let round = 0; round < ROUNDS; round++) {
      await rest(300 + chance(1500));
      const target = (['server', 'worker', 'reader', 'database'] as const)[round < 4 ? round : chance(4)] ?? 'server';
      kills[target] = (kills[target] ?? 0) + 1;
      if (target === 'server') {
        await server.kill('SIGKILL');
        await server.start();
      } else if (target === 'worker') {
        worker?.kill('SIGKILL');
        work();
      } else if (target === 'reader') {
        for (const pid of readers()) {
          try {
            process.kill(pid, 'SIGKILL');
          } catch {
            // It has ended by itself.
          }
        }
      } else {
        cluster.kill();
        cluster.start();
        // A worker that lost its database ends; whoever keeps it starts it again.
        if (worker?.exitCode !== null) work();
      }
    }
    over = true;
    await Promise.all(clients);
    await expect.poll(() => cluster.psql("SELECT count(*) FROM drawings WHERE state = 'waiting' AND NOT superseded"), { timeout: 180_000 }).toBe('0');
    const rows = cluster
      .psql('SELECT file, count(*) FROM drawings GROUP BY file ORDER BY file')
      .split('\n')
      .map((r) => r.split('|'));
    expect(rows.filter((r) => r[1] !== '1')).toEqual([]);
    const there = new Set(rows.map((r) => r[0]));
    expect([...taken].filter((f) => !there.has(f))).toEqual([]);
    expect(taken.size).toBeGreaterThan(ROUNDS / 2);
    // A reader that was killed twice says so and is asked again by hand; every other drawing was measured.
    const failed = cluster.psql("SELECT coalesce(string_agg(DISTINCT message, '; '), '') FROM drawings WHERE state = 'failed'");
    expect(failed).toMatch(/^(reading it was ended by the system[^;]*)?$/);
    expect(Number(cluster.psql(`SELECT revision FROM trial_pages WHERE id = '${trial}'`))).toBeGreaterThanOrEqual(revision);
    for (const [id, number] of decided)
      expect(Number(cluster.psql(`SELECT max(number) FROM decisions WHERE drawing_id = '${id}'`))).toBeGreaterThanOrEqual(number);
    // A change and its row in the log are one.
    expect(cluster.psql('SELECT count(*) FROM decisions')).toBe(cluster.psql("SELECT count(*) FROM audit WHERE action = 'ready'"));
    expect(cluster.psql("SELECT count(*) FROM images WHERE sha256 <> encode(sha256(bytes), 'hex')")).toBe('0');
    console.log(`${ROUNDS} rounds (${JSON.stringify(kills)}): ${taken.size} drawings acknowledged, ${decided.size} decided on, revision ${revision}`);
  } finally {
    worker?.kill('SIGKILL');
    await server.kill('SIGKILL');
    cluster.remove();
  }
});
