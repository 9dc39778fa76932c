// A server and a PostgreSQL cluster of a test's own, to be killed, stopped, filled up and started again.
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { type APIRequestContext, expect, request } from '@playwright/test';

export const PROGRAM = process.env.EDDYMIST_BIN ?? '';
const ROOT = resolve(import.meta.dirname, '../..');

/** Runs the project's own shell functions. */
const shell = (script: string, env: Record<string, string> = {}) =>
  execFileSync('bash', ['-c', `set -e; . bin/lib.sh; ${script}`], { cwd: ROOT, env: { ...process.env, ...env }, encoding: 'utf8' });

export class Cluster {
  readonly dir = mkdtempSync(join(tmpdir(), 'eddymist-cluster-'));
  url = '';

  /** Starts it; `limit` is the most that one of its files may have, in KiB: what lies beyond is a full disk to it. */
  start(limit = 'unlimited') {
    // The server of PostgreSQL outlives the shell that started it, and must not hold its output open.
    shell(`ulimit -f ${limit}; start_postgres "${this.dir}" eddymist CREATEDB > /dev/null 2>&1 < /dev/null; echo "$DATABASE_URL" > "${this.dir}/url"`);
    this.url = readFileSync(join(this.dir, 'url'), 'utf8').trim();
  }

  private cluster() {
    return shell(`cat "${this.dir}/postgres-is-in"`).trim();
  }

  stop() {
    shell(`pg pg_ctl stop -s -m immediate -D "${this.cluster()}"`);
  }

  /** Ends it as a crash does: its first process is killed, and so are those that it began. Its locks go too: where nobody takes up
   *  orphans, a process that was killed looks alive. */
  kill() {
    const locks = `"${this.cluster()}/postmaster.pid" "${decodeURIComponent(new URL(this.url).host)}/.s.PGSQL.5432.lock"`;
    shell(`pid=$(head -n 1 "${this.cluster()}/postmaster.pid"); kids=$(cat "/proc/$pid/task/$pid/children"); kill -9 "$pid" $kids; sleep 0.3; rm -f ${locks}`);
  }

  remove() {
    try {
      this.stop();
    } catch {
      // It is stopped already.
    }
    rmSync(this.cluster(), { recursive: true, force: true });
    rmSync(this.dir, { recursive: true, force: true });
  }

  /** The address of one of its databases. */
  of(database: string) {
    return this.url.replace(/\/[^/]*$/, `/${database}`);
  }

  psql(sql: string, database = 'eddymist') {
    return execFileSync('psql', ['-qtA', this.of(database), '-c', sql], { encoding: 'utf8' }).trim();
  }
}

let port = 8700 + (process.pid % 200);

export class Server {
  process: ChildProcess | undefined;
  readonly address = `http://127.0.0.1:${port++}`;
  log = '';
  said = '';

  constructor(readonly database: string) {}

  /** Starts it, with flags besides. */
  async start(...flags: string[]) {
    const listen = this.address.replace('http://', '');
    const env = { ...process.env, DATABASE_URL: this.database };
    execFileSync(PROGRAM, ['migrate'], { env });
    this.process = spawn(PROGRAM, ['serve', '--listen', listen, '--pages', resolve(ROOT, 'web/dist'), ...flags], { env, stdio: ['ignore', 'pipe', 'pipe'] });
    this.process.stdout?.on('data', (d) => {
      this.said += d;
    });
    this.process.stderr?.on('data', (d) => {
      this.log += d;
    });
    await expect
      .poll(
        async () =>
          fetch(`${this.address}/readyz`)
            .then((r) => r.status)
            .catch(() => 0),
        { timeout: 30_000 },
      )
      .toBe(200);
  }

  async kill(signal: NodeJS.Signals = 'SIGKILL') {
    if (!this.process || this.process.exitCode !== null || this.process.signalCode !== null) return;
    const ended = new Promise((done) => this.process?.once('exit', done));
    this.process?.kill(signal);
    await ended;
  }

  async signIn(email: string, password: string) {
    const who = await request.newContext({ baseURL: this.address });
    expect((await who.post('/api/v1/session', { data: { email, password } })).status()).toBe(200);
    return who;
  }

  /** The code that the console printed. */
  setupCode() {
    return /setup code: (\S+)/.exec(this.said)?.[1] ?? '';
  }

  /** The first member of an empty database, signed in, with their production's address. */
  async first(password: string): Promise<{ lead: APIRequestContext; p: string }> {
    const lead = await request.newContext({ baseURL: this.address });
    const body = { setup_code: this.setupCode(), name: 'Hanne Vogt', email: 'hanne@studio.example', password, production: 'Low Tide' };
    const answer = await lead.post('/api/v1/first-member', { data: body });
    expect(answer.status(), await answer.text()).toBe(200);
    return { lead, p: `/api/v1/productions/${(await answer.json()).productions[0].id}` };
  }
}

/** Writes a file into a new folder, and gives its path. */
export function scratch(name: string, content?: string) {
  const path = join(mkdtempSync(join(tmpdir(), 'eddymist-')), name);
  if (content !== undefined) writeFileSync(path, content);
  return path;
}
