// The interface’s description against the running server: every operation is asked, as well as it can be with what the demo holds, and what
// comes back is what the description says: its status, its kind, its schema (JSON Schema 2020-12, by Ajv).
import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { type APIRequestContext, expect, test } from '@playwright/test';
import Ajv2020 from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { png } from './files';
import { asMember, baseURL, production } from './people';

type Operation = {
  parameters: { name: string; in: string; schema: Record<string, unknown> }[];
  requestBody?: { content: Record<string, { schema: object }> };
  responses: Record<string, { content?: Record<string, { schema: object }>; headers?: object }>;
  security?: object[];
};
const NOBODY = '00000000-0000-4000-8000-000000000000';
const LINE = png(240, 160, (x, y) => Math.abs(y - 60 - x / 8) < 2);

/** A small body that a route takes; none where what it needs is another test's. */
const bodies = (ids: Record<string, string>, brush: object, guide: object): Record<string, object> => ({
  'post /trials': { name: 'described', page: { width_px: 100, height_px: 60, px_per_mm: 6, strokes: [] } },
  'put /trials/{id}': { page: { width_px: 100, height_px: 60, px_per_mm: 6, strokes: [] }, from_revision: 1 },
  'post /brushes': { name: 'described' },
  'put /brushes/{id}/draft': { brush: null, from_version: 1 },
  'post /brushes/{id}/bench': { brush },
  'post /brushes/{id}/density': { brush, strokes: [[0, 0, 0, 0.5, null, null, 10, 5, 0, 0.5, null, null]] },
  'post /stand-ins/warm-up': { hand: 'steady', tablet: 'slate' },
  'post /stand-ins/pairs': { hand: 'steady', tablet: 'slate', pen: 'steel-nib', way: 'paper' },
  'post /profiles/{id}/pairs': { scan_sha256: 'none', resolution_dpi: 300, way: 'paper' },
  'post /profiles/{id}/response': { scan_sha256: 'none', resolution_dpi: 300, way: 'over' },
  'post /guides': guide,
  'post /guides/{id}/versions': { guide, from_version: 1 },
  'post /guides/{id}/try': { guide, done: 99999 },
  'post /deliveries': { name: 'described', guide_id: ids.guides, pattern: '' },
  'post /deliveries/{id}/decisions': { drawings: [], state: 'ready', note: '', strokes: [] },
  'post /deliveries/{id}/aside': { drawings: [], why: 'removed' },
  'post /deliveries/{id}/dismissals': { findings: [], why: 'described' },
  'put /drawings/{id}/take-of': { of: null },
  'put /deliveries/{id}/manifest': { pattern: '', from_version: 99 },
  'post /names': { files: ['1_a_2.png'], pattern: '{shot}_{artist}_{drawing}' },
  'post /invitations': { email: 'described@studio.example', part: 'viewer' },
  'put /artists': { artist: 'nobody in particular', member: null },
  'post /library/read': { library: '{}' },
  'put /name': { name: 'Night Tram' },
  'put /members/{member}': { part: 'artist', from: 'viewer' },
  'put /pens/{id}/tags': { tags: ['described'], from_version: 99 },
  'put /brushes/{id}/tags': { tags: ['described'], from_version: 99 },
  'post /drawings/{id}/pins': { x: 5, y: 5, text: 'described' },
});

test('every operation answers as it is described', async () => {
  const lead = await asMember('ilse@nighttram.example');
  const p = await production(lead);
  const described = await (await lead.get('/api/openapi.json')).json();
  expect(described.openapi).toBe('3.1.0');
  // What is served is what is kept beside the pages.
  expect(described).toEqual(JSON.parse(readFileSync(resolve(import.meta.dirname, '../src/api/openapi.json'), 'utf8')));
  const ajv = new Ajv2020({ strict: false, allErrors: true });
  addFormats(ajv);
  for (const f of ['uint', 'uint8', 'uint16', 'uint32', 'uint64', 'int32', 'int64', 'float', 'double']) ajv.addFormat(f, true);
  ajv.addSchema({ $id: 'api', components: described.components });
  const told = (schema: object) => ajv.compile(JSON.parse(JSON.stringify(schema).replaceAll('"#/components', '"api#/components')));

  const first = async (what: string) => (await (await lead.get(`${p}/${what}`)).json())[0]?.id ?? NOBODY;
  const ids: Record<string, string> = {};
  for (const what of ['pens', 'profiles', 'brushes', 'guides', 'deliveries', 'trials', 'trims']) ids[what] = await first(what);
  const drawing = (await (await lead.get(`${p}/deliveries/${ids.deliveries}`)).json()).drawings[0];
  ids.drawings = drawing.id;
  const brush = (await (await lead.get(`${p}/brushes/${ids.brushes}`)).json()).versions[0].brush;
  const guide = { ...(await (await lead.get(`${p}/guides`)).json())[0].guide, name: 'described' };
  const given = bodies(ids, brush, guide);
  const room = (path: string) => path.split('/')[1] ?? '';
  const kinds: Record<string, string> = { 'sampler-sheet': 'pdf', trials: 'svg', 'proof-sheet': 'pdf', drawings: 'svg', team: 'csv', paths: 'svg' };
  const at = (path: string) => {
    const of = path.replace('/api/v1/productions/{production}', '');
    return path
      .replace('{production}', p.split('/').pop() ?? '')
      .replace('{x}/{y}/{normal}', '40/40/90')
      .replace('{kind}/{id}', `pens/${NOBODY}`)
      .replace('{kind}', kinds[room(of)] ?? 'svg')
      .replace('{paper}', 'a4')
      .replace('{what}', room(of) === 'pens' ? 'card.json' : 'findings.csv')
      .replace('{sha}', drawing.sha256)
      .replace('{brushes}', `${ids.brushes}@1`)
      .replace('{version}', '1')
      .replace('{pen}', room(of) === 'stand-ins' ? 'fineliner' : (ids.pens ?? NOBODY))
      .replace('{other}', ids.pens ?? NOBODY)
      .replace('{finding}', '0')
      .replace('{name}', 'dov')
      .replace('{role}', 'contour')
      .replace('{id}', ids[room(of)] ?? NOBODY)
      .replace(/\{\w+\}/g, NOBODY);
  };
  const seen: Record<string, number> = {};
  const wrong: string[] = [];
  for (const [path, operations] of Object.entries(described.paths as Record<string, Record<string, Operation>>)) {
    for (const [verb, o] of Object.entries(operations)) {
      const short = `${verb} ${path.replace('/api/v1', '').replace('/productions/{production}', '')}`;
      // Signing out would end the test; the stream never ends by itself.
      if (short === 'delete /session' || short.endsWith('/progress') || short === 'post /deliveries/{id}/check') continue;
      for (const q of o.parameters) if (q.in === 'path' && !path.includes(`{${q.name}}`)) wrong.push(`${short}: ${q.name} is not in the path`);
      const names = [...path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]);
      for (const n of names) if (!o.parameters.some((q) => q.in === 'path' && q.name === n)) wrong.push(`${short}: ${n} is not described`);
      const takes = Object.keys(o.requestBody?.content ?? {})[0];
      const file = { name: 'line.png', mimeType: 'image/png', buffer: LINE };
      const options = takes === 'multipart/form-data' ? { multipart: { file } } : takes ? { data: given[short] ?? {} } : {};
      const ask = (who: APIRequestContext) => who.fetch(at(path), { method: verb.toUpperCase(), ...options, timeout: 120_000 });
      const answer = await ask(lead);
      const status = answer.status();
      // What is asked after it wants a production that can be changed.
      if (short === 'put /archived') await lead.delete(at(path));
      seen[status] = (seen[status] ?? 0) + 1;
      const as = o.responses[status] ?? (answer.ok() ? undefined : o.responses.default);
      const kind = (answer.headers()['content-type'] ?? '').split(';')[0] ?? '';
      if (!as) wrong.push(`${short}: ${status} is not described`);
      else if (!as.content?.[kind]) wrong.push(`${short}: ${status} came as ${kind}, described is ${Object.keys(as.content ?? {})}`);
      else if (kind.endsWith('json') && path !== '/api/v1/productions/{production}/pens/{id}/files/{what}' && !path.endsWith('/library')) {
        const valid = told(as.content[kind].schema);
        if (!valid(await answer.json())) wrong.push(`${short}: ${status} ${JSON.stringify(valid.errors?.slice(0, 3))}`);
      }
      if (as?.headers && !answer.headers().location?.startsWith('/api/v1/')) wrong.push(`${short}: it does not say where it is`);
    }
  }
  expect(wrong).toEqual([]);
  // Most were answered with what they are for, not with why not.
  expect((seen[200] ?? 0) + (seen[201] ?? 0), JSON.stringify(seen)).toBeGreaterThan(55);
  // Signed out, only what says so is open.
  const out = await (await import('@playwright/test')).request.newContext({ baseURL });
  for (const [path, operations] of Object.entries(described.paths as Record<string, Record<string, Operation>>))
    for (const [verb, o] of Object.entries(operations)) {
      if (path === '/api/v1/session' || o.requestBody?.content['multipart/form-data']) continue;
      const answer = await out.fetch(at(path), { method: verb.toUpperCase(), ...(o.requestBody ? { data: {} } : {}) });
      const shut = answer.status() === 401;
      if (shut === !!o.security) wrong.push(`${verb} ${path}: ${answer.status()}, though it is described as ${o.security ? 'open' : 'shut'}`);
    }
  expect(wrong).toEqual([]);
});
