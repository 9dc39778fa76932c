// The generated client, and how an answer that is a problem becomes an error with its sentence.
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export const api = createClient<paths>({ baseUrl: '' });

export class ProblemError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly current?: unknown,
    /** The field of what was sent that is wrong. */
    readonly field?: string,
  ) {
    super(message);
  }
}

/** The data of an answer; throws the sentence of a problem. */
export async function take<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got: { data?: T; error?: unknown; response: Response };
  try {
    got = await answer;
  } catch {
    throw new ProblemError('The server cannot be reached. What you entered is still here; try again when it is back.', 0);
  }
  if (!got.response.ok) {
    const p = got.error as { detail?: string; current?: unknown; field?: string } | undefined;
    const detail = p?.detail ?? (typeof got.error === 'string' && got.error ? got.error : 'The server gave no reason; try again.');
    throw new ProblemError(detail.charAt(0).toUpperCase() + detail.slice(1), got.response.status, p?.current, p?.field);
  }
  return got.data as T;
}

/** So many rows of a list are answered at a time. */
export const PAGE = 200;

/** A long list to its end, page by page; with what is there of it already. */
export async function takeAll<T extends { id: string }>(page: (after: string | undefined) => Promise<T[]>, first: T[] = []): Promise<T[]> {
  let all = [...first];
  // What was added or removed meanwhile may shift a page: no row comes twice.
  let seen = new Set(all.map((row) => row.id));
  for (let again = 0; ; ) {
    let rows: T[];
    try {
      rows = await page(all.at(-1)?.id);
    } catch (e) {
      // The row that it should follow on is gone: from the beginning, but not for ever.
      if (!(e instanceof ProblemError && e.status === 409) || again++ > 2) throw e;
      [all, seen] = [[], new Set()];
      continue;
    }
    const fresh = rows.filter((row) => !seen.has(row.id));
    for (const row of fresh) seen.add(row.id);
    all.push(...fresh);
    if (rows.length < PAGE || !fresh.length) return all;
  }
}

/** The versions of a thing to their end, the newest first, with what is there of them already. */
export async function takeVersions<T extends { version: number }>(older: (before: number | undefined) => Promise<T[]>, first: T[] = []): Promise<T[]> {
  const all = new Map(first.map((v) => [v.version, v]));
  for (let rows = first; !all.size || rows.length >= PAGE; ) {
    rows = await older(rows.at(-1)?.version);
    for (const v of rows) all.set(v.version, v);
    if (!rows.length) break;
  }
  return [...all.values()].sort((a, b) => b.version - a.version);
}

/** A file's path within the folder that it was dropped with, or its name: two folders may have files of one name. */
export const pathOf = (f: File & { relativePath?: string }) => (f.relativePath || f.webkitRelativePath || f.name).replace(/^\.?\//, '');

/** Sends files as a form. */
export function sendFiles<T>(url: string, files: File[], fields: Record<string, string> = {}): Promise<T> {
  const form = new FormData();
  for (const [k, v] of Object.entries(fields)) form.append(k, v);
  for (const f of files) form.append('file', f, pathOf(f));
  return take<T>(
    fetch(url, { method: 'POST', body: form }).then(async (response) => {
      const body = await response.text();
      let parsed: unknown = body;
      try {
        parsed = JSON.parse(body);
      } catch {
        // A proxy's error page is text; the sentence is then our own.
      }
      return response.ok ? { data: parsed as T, response } : { error: parsed, response };
    }),
  );
}
