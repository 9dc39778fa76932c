// The interface itself: every route against every part, and what it refuses and how, with nothing half-kept. It makes guides and
// deliveries of its own, so it comes after the journeys that look at the demo.
import { type APIRequestContext, type APIResponse, expect, request, test } from '@playwright/test';
import { joined, png, zip } from './files';

const base = process.env.EDDYMIST_URL ?? 'http://127.0.0.1:8380';
const NOBODY = '00000000-0000-4000-8000-000000000000';
const PASSWORD = 'last tram home';

async function as(email?: string, password = PASSWORD): Promise<APIRequestContext> {
  const context = await request.newContext({ baseURL: base });
  if (email) expect((await context.post('/api/v1/session', { data: { email, password } })).status()).toBe(200);
  return context;
}

async function production(who: APIRequestContext): Promise<string> {
  const session = await (await who.get('/api/v1/session')).json();
  return `/api/v1/productions/${session.productions[0].id}`;
}

/** A problem document (RFC 9457) with a sentence that a person can act on. */
async function refusal(answer: APIResponse, status: number, says: RegExp | string = /\w+ \w+/) {
  expect(answer.headers()['content-type'], answer.url()).toContain('application/problem+json');
  const problem = await answer.json();
  expect([answer.status(), problem.status], JSON.stringify(problem)).toEqual([status, status]);
  expect(problem.detail).toMatch(says);
  return problem;
}

type Operation = { verb: 'get' | 'post' | 'put' | 'delete'; path: string };
async function routes(who: APIRequestContext): Promise<Operation[]> {
  const described = await (await who.get('/api/openapi.json')).json();
  return Object.entries(described.paths as Record<string, Record<string, unknown>>).flatMap(([path, verbs]) =>
    Object.keys(verbs).map((verb) => ({ verb: verb as Operation['verb'], path })),
  );
}

/** The lead's acts (docs/rights.md); everything else that changes something is an artist's too. */
const LEADS_ONLY = [
  'put /name',
  'put /archived',
  'delete /archived',
  'put /members/{member}',
  'post /members/{member}/reset',
  'put /members/{member}/disabled',
  'delete /members/{member}/disabled',
  'delete /members/{member}/account',
  'put /artists',
  'post /invitations',
  'delete /invitations/{id}',
  'put /roll',
  'post /guides',
  'post /guides/{id}/versions',
  'post /guides/{id}/try',
  'post /deliveries/{id}/check',
  'post /deliveries/{id}/decisions',
  'post /deliveries/{id}/dismissals',
  'post /drawings/{id}/dismissals',
  'delete /drawings/{id}/dismissals/{dismissal}',
  'post /drawings/{id}/regions',
  'delete /drawings/{id}/regions/{region}',
  'post /drawings/{id}/pins',
  'delete /drawings/{id}/pins/{pin}',
  'post /trims',
  'delete /removal/{kind}/{id}',
];
/** Of one's own membership: a viewer leaves by it too; and what is done to a production that is archived. */
const OWN = ['delete /members/{member}', 'put /archived', 'delete /archived'];
const PREFIX = '/api/v1/productions/{production}';

test('every route against every part: strangers find nothing, viewers change nothing, and the lead’s acts are the lead’s', async () => {
  const out = await as();
  const [viewer, artist, lead] = [await as('wanda@nighttram.example'), await as('dov@nighttram.example'), await as('ilse@nighttram.example')];
  const own = (await production(viewer)).split('/')[4] ?? '';
  const all = (await routes(out)).filter((r) => r.path.startsWith(PREFIX));
  expect(all.length).toBeGreaterThan(80);
  const key = (r: Operation) => `${r.verb} ${r.path.slice(PREFIX.length)}`;
  expect(LEADS_ONLY.filter((k) => !all.some((r) => key(r) === k))).toEqual([]);
  const at = (r: Operation, p: string, id = NOBODY) =>
    r.path
      .replace('{production}', p)
      .replace('{finding}', '0')
      .replace('{x}/{y}/{normal}', '1/2/3')
      // An artist may archive a pen, and a lead anything: the rights of a kind are another test's.
      .replace('{kind}/{id}', `pens/${id}`)
      .replace(/\{\w+\}/g, id);
  const ask = (who: APIRequestContext, r: Operation, p: string) =>
    who.fetch(at(r, p), { method: r.verb.toUpperCase(), data: r.verb === 'get' ? undefined : {} });
  for (const r of all) {
    const [name, lone] = [key(r), OWN.includes(key(r))];
    await refusal(await ask(out, r, own), 401, /signed out/);
    // To one who is no member, a production is not there; nor is one whose name is no name.
    await refusal(await ask(viewer, r, NOBODY), 404);
    await refusal(await ask(viewer, r, 'x'), 404);
    if (r.verb === 'get') {
      for (const who of [viewer, artist, lead]) {
        const seen = await who.get(at(r, own));
        expect([200, 404, 422], `${name}: ${seen.status()}`).toContain(seen.status());
      }
      if (r.path.includes('{id}')) await refusal(await viewer.get(at(r, own, 'no-id')), 400);
      continue;
    }
    await refusal(await ask(viewer, r, own), 403, lone ? /lead/ : /viewer/);
    if (LEADS_ONLY.includes(name)) await refusal(await ask(artist, r, own), 403, /only a lead/);
    else if (!lone) expect((await ask(artist, r, own)).status(), name).not.toBe(403);
    expect((await ask(lead, r, own)).status(), name).not.toBe(403);
    // What is asked after it wants a production that can be changed.
    if (name === 'put /archived') await lead.delete(at(r, own));
    // A body that is none is refused in a sentence, whoever sends it.
    const headers = { 'content-type': 'application/json' };
    const broken = await artist.fetch(at(r, own), { method: r.verb.toUpperCase(), headers, data: Buffer.from('{"name":') });
    expect([400, 403, 404, 409, 415, 422], `${name}: ${broken.status()}`).toContain(broken.status());
    await refusal(broken, broken.status());
  }
  // Guides and deliveries are archived by leads alone, pens by artists too.
  for (const [kind, allowed] of [
    ['guides', false],
    ['deliveries', false],
    ['pens', true],
    ['brushes', true],
  ] as const) {
    const answer = await artist.put(`/api/v1/productions/${own}/archive/${kind}/${NOBODY}`);
    await refusal(answer, allowed ? 404 : 403, allowed ? /not in this production/ : /only a lead/);
  }
  await refusal(await artist.put(`/api/v1/productions/${own}/archive/people/${NOBODY}`), 400);
});

test('a route that is not there, a method it does not take and a body that is too much are said in the same way', async () => {
  const lead = await as('ilse@nighttram.example');
  await refusal(await lead.get('/api/v1/nothing'), 404, /openapi/);
  await refusal(await lead.put('/api/v1/session', { data: {} }), 405, /method/);
  const p = await production(lead);
  await refusal(await lead.post(`${p}/names`, { headers: { 'content-type': 'text/plain' }, data: 'x' }), 415);
  await refusal(await lead.post(`${p}/names`, { data: { pattern: '{painter}', files: [] } }), 422, /painter/);
  await refusal(await lead.post(`${p}/names`, { data: { files: [] } }), 422, /pattern/);
});

test('answers carry the headers that keep a page to itself, and the cookie cannot be read by scripts', async () => {
  const context = await request.newContext({ baseURL: base });
  for (const path of ['/', '/pens', '/api/v1/session', '/api/v1/nothing']) {
    const headers = (await context.get(path)).headers();
    expect(headers['content-security-policy']).toContain("script-src 'self' 'wasm-unsafe-eval'");
    expect(headers['content-security-policy']).toContain("frame-ancestors 'none'");
    expect([headers['x-content-type-options'], headers['referrer-policy']]).toEqual(['nosniff', 'no-referrer']);
  }
  const signed = await context.post('/api/v1/session', { data: { email: 'ilse@nighttram.example', password: PASSWORD } });
  expect(signed.headers()['set-cookie']).toMatch(/eddymist=.*HttpOnly.*SameSite=Strict|eddymist=.*SameSite=Strict.*HttpOnly/);
  expect(JSON.stringify(await signed.json())).not.toMatch(/argon2|hash/);
  // Signed out is signed out, also for the cookie that was good before.
  const before = await context.storageState();
  await context.delete('/api/v1/session');
  const thief = await request.newContext({ baseURL: base, storageState: before });
  expect((await (await thief.get('/api/v1/session')).json()).member).toBeNull();
});

test('guesses are slowed down: after five wrong passwords even the right one waits', async () => {
  const lead = await as('ilse@nighttram.example');
  const p = await production(lead);
  const email = `guessed-${Date.now()}@nighttram.example`;
  await joined(base, lead, p, { name: 'Gus', email, password: 'a good password', part: 'viewer' });
  const guess = await as();
  for (let i = 0; i < 5; i++) await refusal(await guess.post('/api/v1/session', { data: { email, password: `guess ${i}` } }), 401, /do not fit/);
  await refusal(await guess.post('/api/v1/session', { data: { email, password: 'a good password' } }), 429, /try again in \d+ seconds/);
  // An address that nobody has is refused in the same words as a wrong password.
  await refusal(await guess.post('/api/v1/session', { data: { email: 'nobody@nighttram.example', password: 'x' } }), 401, /do not fit/);
  const { link } = await (await lead.post(`${p}/invitations`, { data: { email: 'g@x.example', part: 'viewer' } })).json();
  for (const [field, value, says] of [
    ['name', ' ', /name/],
    ['password', 'short', /8 characters/],
  ] as const) {
    const answer = await guess.post(`/api/v1/invitations/${link.split('/')[2]}`, { data: { name: 'Gus', password: 'long enough', [field]: value } });
    await refusal(answer, 422, says);
  }
  await refusal(await lead.post(`${p}/invitations`, { data: { email: 'gus', part: 'viewer' } }), 422, /complete/);
});

const file = (name: string, buffer: Buffer) => ({ file: { name, mimeType: 'application/octet-stream', buffer } });

test('scans that cannot be measured are refused, and a pen is not kept from what was never measured', async () => {
  const lead = await as('dov@nighttram.example');
  const p = await production(lead);
  const pens = async () => (await (await lead.get(`${p}/pens`)).json()).length;
  const before = await pens();
  const lines = png(600, 200, (_, y) => y % 60 > 50);
  const send = (form: Record<string, unknown>) => lead.post(`${p}/scans`, { multipart: form as never });
  await refusal(await send(file('empty.png', Buffer.alloc(0))), 422, /empty/);
  await refusal(await send(file('text.png', Buffer.from('no picture at all'))), 422, /PNG, TIFF and JPEG/);
  await refusal(await send({ ...file('cut.png', lines.subarray(0, 120)), dpi: '600' }), 422, /damaged or cut short/);
  await refusal(await send(file('bare.png', lines)), 422, /resolution/);
  await refusal(await send({ ...file('bare.png', lines), dpi: 'many' }), 422, /number of dpi/);
  await refusal(await send({ ...file('bare.png', lines), dpi: '12' }), 422, /between 50 and 10000/);
  // A page without a line is no refusal: a flick or a dot may be on it. It says so, and nothing can be kept of it.
  const white = await (
    await send({
      ...file(
        'white.png',
        png(400, 300, () => false),
      ),
      dpi: '600',
    })
  ).json();
  expect(white.lines).toEqual([]);
  expect(white.measurement.warnings.join()).toContain('no ruled line');
  const marks = [
    { kind: 'dot', area: [10, 10, 60, 60] },
    { kind: 'flick-in', area: [390, 10, 60, 60] },
  ];
  const read = await (await lead.post(`${p}/scans/${white.sha256}/marks`, { data: { resolution_dpi: 600, marks } })).json();
  expect(read.map((m: { problem: string }) => m.problem)).toEqual([expect.stringMatching(/no ink/), expect.stringMatching(/outside of the picture/)]);
  await refusal(
    await lead.post(`${p}/pens`, { data: { name: 'nothing', scan_sha256: white.sha256, resolution_dpi: 600, efforts: [] } }),
    422,
    /nothing of a pen was measured/,
  );
  await refusal(await send({ dpi: '600' }), 422, /no file/);
  const measured = await send({
    ...file(
      'lines.png',
      png(1400, 260, (x, y) => x > 60 && x < 1340 && y % 80 > 62 && y < 240),
    ),
    dpi: '600',
  });
  expect(measured.status()).toBe(200);
  const view = await measured.json();
  expect(view.measurement.lines).toHaveLength(3);
  for (const l of view.measurement.lines) expect(Math.abs(l.width_mm.mean - (17 * 25.4) / 600)).toBeLessThan(0.004);
  const pen = {
    name: 'ruled by numbers',
    scan_sha256: view.sha256,
    resolution_dpi: 600,
    efforts: [0.5, 0.5, 0.5],
    note: { paper: '', ink: '', wear: '', use: '' },
  };
  await refusal(await lead.post(`${p}/pens`, { data: { ...pen, scan_sha256: '0'.repeat(64) } }), 404);
  await refusal(await lead.post(`${p}/pens`, { data: { ...pen, name: ' ' } }), 422, /name/);
  await refusal(await lead.post(`${p}/pens`, { data: { ...pen, efforts: [0.5, 2, 0.5] } }), 422, /effort/);
  expect(await pens()).toBe(before);
  expect((await lead.post(`${p}/pens`, { data: pen })).status()).toBe(201);
  expect(await pens()).toBe(before + 1);
});

test('warm-ups that say nothing are refused, and none is kept before the member says so', async () => {
  const artist = await as('dov@nighttram.example');
  const p = await production(artist);
  const read = (inkml: string) => artist.post(`${p}/warm-ups`, { data: { inkml, label: 'x' } });
  await refusal(await read(''), 422, /empty/);
  await refusal(await read('<ink><trace>1 NaN</trace></ink>'), 422, /no number/);
  await refusal(await read('<ink><trace>0 0, 1 1</trace></ink>'), 422, /exercise/);
  await refusal(await read('<ink><traceFormat><channel name="X" units="furlong"/><channel name="Y"/></traceFormat></ink>'), 422, /furlong/);
  await refusal(await artist.post(`${p}/stand-ins/warm-up`, { data: { hand: 'steady', tablet: 'none' } }), 404);
  const simulated = await (await artist.post(`${p}/stand-ins/warm-up`, { data: { hand: 'light', tablet: 'travel' } })).json();
  expect(simulated.profile.tilt).toBe(false);
  const profiles = async () => (await (await artist.get(`${p}/profiles`)).json()).length;
  const before = await profiles();
  // InkML out and in again: the same profile.
  const again = await (await read(simulated.inkml)).json();
  expect(again.profile.response).toEqual(simulated.profile.response);
  expect(await profiles()).toBe(before);
  // Of three strokes at light effort one is pressed as at the hardest: left out, said, and counted where it was meant; the file says so.
  const one = (effort: number) =>
    new RegExp(`<annotation type="effort">${effort}</annotation>[\\s\\S]*?(<trace[\\s\\S]*?</trace>)`).exec(simulated.inkml)?.[1] ?? '';
  const slipped = simulated.inkml.replace(one(0.25), one(1));
  const left = await (await read(slipped)).json();
  expect([simulated.slips_counted, left.slips_counted]).toEqual([null, false]);
  expect(left.profile.advice.join()).toMatch(/stroke 1 at light effort.*was left out/);
  const meant = await (await artist.post(`${p}/warm-ups`, { data: { inkml: slipped, label: 'x', slips_counted: true } })).json();
  expect([meant.slips_counted, meant.inkml.includes('<annotation type="slips">counted')]).toEqual([true, true]);
  expect(meant.profile.response).not.toEqual(left.profile.response);
  expect((await (await read(meant.inkml)).json()).profile.response).toEqual(meant.profile.response);
  await refusal(await artist.post(`${p}/profiles`, { data: { artist: '', tablet: 'x', inkml: simulated.inkml } }), 422, /whose hand/);
  const kept = await (await artist.post(`${p}/profiles`, { data: { artist: 'Dov Tarrant', tablet: 'borrowed', inkml: simulated.inkml } })).json();
  const out = await (await artist.get(`${p}/profiles/${kept.id}/warm-up`)).text();
  expect((await (await read(out)).json()).profile.response).toEqual(simulated.profile.response);
});

test('a brush keeps every version, refuses a stale save with both, and takes no wrong number', async () => {
  const artist = await as('dov@nighttram.example');
  const other = await as('ilse@nighttram.example');
  const p = await production(artist);
  const made = await (await artist.post(`${p}/brushes`, { data: { name: 'for the test' } })).json();
  const url = `${p}/brushes/${made.id}`;
  const first = await (await artist.get(url)).json();
  const brush = first.versions[0].brush;
  const thicker = {
    ...brush,
    weight: [
      [0, 0.4],
      [1, 0.9],
    ],
  };
  expect((await artist.post(`${url}/versions`, { data: { brush: thicker, from_version: 1, says: 'thicker' } })).status()).toBe(201);
  const stale = await refusal(
    await other.post(`${url}/versions`, { data: { brush, from_version: 1, says: 'mine' } }),
    409,
    /started from version 1, and version 2/,
  );
  expect(stale.current.brush.weight).toEqual(thicker.weight);
  for (const [wrong, says] of [
    [
      {
        ...brush,
        weight: [
          [0, 0.4],
          [1, 0.2],
        ],
      },
      /fall/,
    ],
    [{ ...brush, format: 'eddymist/guide' }, /format/],
    [{ ...brush, version: 2 }, /version/],
    [{ ...brush, hue: 3 }, /hue/],
    [{ ...brush, nib: { shape: 'star' } }, /star/],
  ] as const) {
    await refusal(await artist.post(`${url}/versions`, { data: { brush: wrong, from_version: 2, says: '' } }), 422, says);
  }
  // A stroke kind without its shape is refused by the field that lacks it; another is kept and inked.
  const shapeless = { ...thicker, stroke: { kind: 'shaped', ends: 'stretch', shape_path: 'M0 0' } };
  await refusal(await artist.post(`${url}/bench`, { data: { brush: shapeless } }), 422, /stroke.shape_path/);
  const pixel = { ...thicker, stroke: { kind: 'pixel' } };
  expect((await artist.post(`${url}/versions`, { data: { brush: pixel, from_version: 2, says: 'pixel' } })).status()).toBe(201);
  expect((await artist.post(`${url}/bench`, { data: { brush: pixel } })).status()).toBe(200);
  // Going back is no loss: the later versions stay.
  await refusal(await artist.post(`${url}/current`, { data: { version: 9, from_version: 3 } }), 404, /version/);
  await refusal(await artist.post(`${url}/current`, { data: { version: 1, from_version: 2 } }), 409);
  expect((await artist.post(`${url}/current`, { data: { version: 1, from_version: 3 } })).status()).toBe(200);
  const now = await (await artist.get(url)).json();
  expect([now.current_version, now.versions.length]).toEqual([1, 3]);
  expect(now.versions.find((v: { version: number }) => v.version === 3).brush.stroke).toEqual(pixel.stroke);
  // A draft outlives the page, is plainly a draft, and can be taken back.
  await artist.put(`${url}/draft`, { data: { brush: thicker, from_version: 1 } });
  expect((await (await artist.get(url)).json()).draft.weight).toEqual(thicker.weight);
  await artist.put(`${url}/draft`, { data: { brush: null, from_version: 1 } });
  expect((await (await artist.get(url)).json()).draft).toBeNull();
  const copy = await (await artist.post(`${p}/brushes`, { data: { name: 'from a copy', copy_of: made.id, copy_version: 2 } })).json();
  expect((await (await artist.get(`${p}/brushes/${copy.id}`)).json()).versions[0].brush.weight).toEqual(thicker.weight);
  await refusal(await artist.post(`${p}/brushes`, { data: { name: 'x', copy_of: NOBODY } }), 404);
});

const settle = async (who: APIRequestContext, url: string) => {
  for (let i = 0; i < 200; i++) {
    const d = await (await who.get(url)).json();
    if (d.drawings.every((w: { standing: string }) => w.standing !== 'waiting')) {
      const { drawings } = await (await who.get(`${url}/line-check`)).json();
      for (const w of d.drawings) w.check = drawings.find((c: { file: string }) => c.file === w.file);
      return d;
    }
    await new Promise((r) => setTimeout(r, 100));
  }
  throw new Error('the drawings were not measured');
};

test('a delivery takes PNG, SVG and ZIP, says of each bad drawing what is wrong with it, and weighs a drawing sent twice once', async () => {
  const lead = await as('ilse@nighttram.example');
  const p = await production(lead);
  const guide = { format: 'eddymist/line-guide', version: 1, name: 'plain', page: { width_px: 400, height_px: 300 } };
  const roles = [{ name: 'line', from: { rest: true }, weight_px: { target: 6, tolerance: 0.1 } }];
  await refusal(await lead.post(`${p}/guides`, { data: { ...guide, roles: [] } }), 422, /at least one/);
  await refusal(await lead.post(`${p}/guides`, { data: { ...guide, version: 2, roles } }), 422, /version/);
  const held = (await (await lead.post(`${p}/guides`, { data: { ...guide, roles, must_mend: ['heavy'] } })).json()).id;
  const delivery = { name: 'mixed bag', guide_id: held, pattern: '{shot}_{artist}_{drawing}' };
  await refusal(await lead.post(`${p}/deliveries`, { data: { ...delivery, name: '' } }), 422, /name/);
  await refusal(await lead.post(`${p}/deliveries`, { data: { ...delivery, pattern: '{shot' } }), 422, /not closed/);
  await refusal(await lead.post(`${p}/deliveries`, { data: { ...delivery, guide_id: NOBODY } }), 404, /guide/);
  const { id } = await (await lead.post(`${p}/deliveries`, { data: delivery })).json();
  const url = `${p}/deliveries/${id}`;
  const drawing = (width: number) => png(400, 300, (x, y) => x > 30 && x < 370 && y >= 150 && y < 150 + width);
  const svg = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300"><path d="M30 150H370" stroke="#000" stroke-width="6"/></svg>');
  const send = (name: string, data: Buffer) => lead.post(`${url}/drawings`, { multipart: file(name, data) as never });
  for (const [name, data] of [
    ['1_dov_10.png', drawing(6)],
    ['1_dov_9.png', drawing(9)],
    ['1_pia_2.svg', svg],
    [
      'pack.zip',
      zip([
        ['in/1_teo_1.png', drawing(6)],
        ['in/notes.txt', Buffer.from('x')],
        ['../up_x_1.png', drawing(6)],
      ]),
    ],
    ['blank.png', png(400, 300, () => false)],
    ['cut.png', drawing(6).subarray(0, 60)],
    ['words.png', Buffer.from('words')],
  ] as [string, Buffer][]) {
    expect((await send(name, data)).status(), name).toBe(200);
  }
  const done = await settle(lead, url);
  const of = (f: string) => done.drawings.find((d: { file: string }) => d.file.endsWith(f));
  const mean = (f: string) => of(f).check.roles[0].weight_px.mean;
  expect(done.drawings).toHaveLength(7);
  for (const [f, width] of [
    ['1_dov_10.png', 6],
    ['1_dov_9.png', 9],
    ['1_pia_2.svg', 6],
    ['1_teo_1.png', 6],
  ] as const)
    expect(Math.abs(mean(f) - width), f).toBeLessThan(0.15);
  expect(of('1_dov_9.png').check.hand_on).toBe('return');
  expect([of('blank.png').standing, of('blank.png').message]).toEqual(['failed', expect.stringMatching(/no ink/)]);
  expect(of('cut.png').message).toMatch(/damaged/);
  expect(of('words.png').message).toMatch(/PNG/);
  // In the order of the numbers, not of the letters.
  const numbers = done.drawings.map((d: { manifest: { drawing?: string } }) => d.manifest.drawing).filter(Boolean);
  expect(numbers).toEqual(['1', '2', '9', '10']);
  // The same name again is that drawing’s next take: it is measured, and the delivery has it once.
  await send('1_dov_9.png', drawing(6));
  const again = await settle(lead, url);
  expect(again.drawings).toHaveLength(7);
  expect(again.drawings.find((d: { file: string }) => d.file === '1_dov_9.png').check.hand_on).toBe('ready');
  // The document is the same as the page's, and what failed is in it.
  const document = await (await lead.get(`${url}/line-check`)).json();
  expect([document.format, document.drawings.length, document.failed.length]).toEqual(['eddymist/line-check', 4, 3]);
  // Read by another pattern, nothing is measured again and nothing lost.
  expect((await lead.put(`${url}/manifest`, { data: { pattern: '{artist}_{shot}_{drawing}', from_version: 1 } })).status()).toBe(200);
  const renamed = await (await lead.get(url)).json();
  expect(renamed.drawings.find((d: { file: string }) => d.file === '1_dov_9.png').manifest).toEqual({ artist: '1', shot: 'dov', drawing: '9' });
  // A drawing of another production is not to be had through this one.
  await refusal(await lead.get(`/api/v1/productions/${NOBODY}/drawings/${again.drawings[0].id}`), 404);
  await refusal(await lead.get(`${p}/images/${'0'.repeat(64)}`), 404);
});

test('progress is told as it happens and ends when all is measured', async () => {
  const lead = await as('ilse@nighttram.example');
  const p = await production(lead);
  const guide = (await (await lead.get(`${p}/guides`)).json())[0];
  const { id } = await (await lead.post(`${p}/deliveries`, { data: { name: 'followed', guide_id: guide.id, pattern: '' } })).json();
  for (let i = 0; i < 6; i++) {
    const data = png(1920, 1080, (x, y) => (x + 3 * y + i) % 160 < 6);
    await lead.post(`${p}/deliveries/${id}/drawings`, { multipart: file(`${i}.png`, data) as never });
  }
  const told = await (await lead.get(`${p}/deliveries/${id}/progress`)).text();
  const events = told
    .split('\n')
    .filter((l) => l.startsWith('data:'))
    .map((l) => JSON.parse(l.slice(5)));
  expect(events.length).toBeGreaterThan(0);
  expect(events.every((e) => e.waiting + e.done + e.failed === 6)).toBe(true);
  expect(events[events.length - 1].waiting).toBe(0);
});

test('libraries, rolls and paths that cannot be are refused by what is wrong with them, and change nothing', async () => {
  const lead = await as('ilse@nighttram.example');
  const p = await production(lead);
  const rack = async () => (await lead.get(`${p}/brushes`)).json();
  const before = await rack();
  const library = JSON.parse(await (await lead.get(`${p}/library`)).text());
  expect(library.brushes.length).toBeGreaterThanOrEqual(before.length);
  const send = (what: unknown) => lead.post(`${p}/library`, { data: { library: typeof what === 'string' ? what : JSON.stringify(what) } });
  await refusal(await send('{'), 422, /not a readable eddymist\/brush-library/);
  await refusal(await send({ ...library, version: 3 }), 422, /version 3/);
  await refusal(await send({ ...library, brushes: [] }), 422, /1 to 2000 brushes/);
  await refusal(await send({ ...library, brushes: [...library.brushes, library.brushes[0]] }), 422, /two brushes are called/);
  await refusal(await send({ ...library, roll: [{ role: 'contour', brush: 'no such brush' }] }), 422, /no brush of the file is called/);
  const other = structuredClone(library);
  other.brushes[0].brush.weight[0][1] = 0.011;
  await refusal(await send(other), 422, /these names are taken/);
  expect((await rack()).length).toBe(before.length);
  // Two brushes of one name go out under two names, and come in as what they are: nothing is doubled.
  for (let k = 0; k < 2; k++) expect((await lead.post(`${p}/brushes`, { data: { name: 'twins' } })).status()).toBe(201);
  const twins = JSON.parse(await (await lead.get(`${p}/library`)).text());
  const named = twins.brushes.map((b: { brush: { name: string } }) => b.brush.name).filter((n: string) => n.startsWith('twins'));
  expect(named).toEqual(['twins', 'twins (2)']);
  const told = await (await lead.post(`${p}/library/read`, { data: { library: JSON.stringify(twins) } })).json();
  for (const b of told.brushes.filter((b: { brush: { name: string } }) => named.includes(b.brush.name))) expect(b.clash.same).toBe(true);
  const item = { role: 'contour', brush_id: before[0].id, version: 1, weight_factor: 1 };
  for (const [roll, status, says] of [
    [[{ ...item, role: ' ' }], 422, /names no line role/],
    [[item, item], 422, /twice/],
    [[{ ...item, weight_factor: 0 }], 422, /between 0.05 and 20/],
    [[{ ...item, colour: 'red' }], 422, /#rrggbb/],
    [[{ ...item, version: 99 }], 404, /version/],
    [[{ ...item, brush_id: NOBODY }], 404, /brush/],
  ] as const) {
    const kept = await (await lead.get(`${p}/roll`)).json();
    await refusal(await lead.put(`${p}/roll`, { data: { roll, seen: kept } }), status, says);
    expect(await (await lead.get(`${p}/roll`)).json()).toEqual(kept);
  }
  const svg = (text: string) => lead.post(`${p}/paths`, { multipart: { file: { name: 'a.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(text) } } });
  await refusal(await svg(''), 422, /empty/);
  await refusal(await svg('<html></html>'), 422, /the root is <html>/);
  await refusal(await svg('<svg xmlns="http://www.w3.org/2000/svg"><text>words</text></svg>'), 422, /no path/);
  const lines = [
    {
      points: [
        [0, 0],
        [9, 0],
      ],
    },
  ];
  const ink = (v: object, kind = 'svg') =>
    lead.post(`${p}/paths/${kind}`, {
      data: { brushes: [{ brush_id: before[0].id, version: 1 }], lines, scale: 1, weight_scales: false, page_mm: [60, 40], ...v },
    });
  expect((await ink({})).status()).toBe(200);
  await refusal(await ink({}, 'bmp'), 404, /svg and inkml/);
  await refusal(await ink({ lines: [] }), 422, /no line is chosen/);
  await refusal(await ink({ scale: 0 }), 422, /scale/);
  await refusal(await ink({ brushes: [{ brush_id: before[0].id, version: 99 }] }), 404, /version/);
  await refusal(await ink({ lines: [{ ...lines[0], brush: 3 }] }), 422, /no brush 3/);
  await refusal(await ink({ page_mm: [0, 40] }), 422, /the page's sides/);
  await refusal(await ink({ lines: [{ ...lines[0], course: '[[0,2],[1,1]]' }] }), 422, /between 0 and 1/);
  await refusal(await lead.get(`${p}/proof-sheet/${before[0].id}@1/bmp`), 404, /pdf and svg/);
  const blank = png(40, 40, () => false);
  await refusal(await lead.post(`${p}/tips`, { multipart: { file: { name: 'a.png', mimeType: 'image/png', buffer: blank } } }), 422, /no tip can be seen/);
});

test('a trial page keeps what was drawn, refuses a stale save with both, and takes no stroke that is none', async () => {
  const artist = await as('dov@nighttram.example');
  const p = await production(artist);
  const [brush] = await (await artist.get(`${p}/brushes`)).json();
  const samples = Array.from({ length: 50 }, (_, i) => [i * 8, 5 + i * 0.4, 12, 0.5, null, null]).flat();
  const stroke = { samples, brush_id: brush.id, version: 1, role: 'contour', colour: '#112233' };
  const page = { width_px: 320, height_px: 200, px_per_mm: 8, strokes: [stroke] };
  const { id } = await (await artist.post(`${p}/trials`, { data: { name: 'by hand', page } })).json();
  const url = `${p}/trials/${id}`;
  for (const [wrong, says] of [
    [{ ...page, width_px: 0 }, /sides of 1 to 12,000/],
    [{ ...page, px_per_mm: 0 }, /px to the mm/],
    [{ ...page, strokes: [{ ...stroke, samples: [1, 2, 3] }] }, /six numbers a sample/],
    [{ ...page, strokes: [{ ...stroke, colour: 'ink' }] }, /#rrggbb/],
    [{ ...page, strokes: [{ ...stroke, weight_factor: 0 }] }, /weight factor/],
  ] as const) {
    await refusal(await artist.put(url, { data: { page: wrong, from_revision: 1 } }), 422, says);
    await refusal(await artist.post(`${p}/trials`, { data: { name: 'x', page: wrong } }), 422, says);
  }
  await refusal(await artist.post(`${p}/trials`, { data: { name: '  ', page } }), 422, /name/);
  const two = { ...page, strokes: [stroke, stroke] };
  expect((await (await artist.put(url, { data: { page: two, from_revision: 1 } })).json()).revision).toBe(2);
  const stale = await refusal(await artist.put(url, { data: { page, from_revision: 1 } }), 409, /started from version 1, and version 2/);
  expect(stale.current.page.strokes).toHaveLength(2);
  for (const kind of ['svg', 'merged.svg', 'png', 'hard.png', 'ora', 'inkml']) expect((await artist.get(`${url}/out/${kind}`)).status(), kind).toBe(200);
  await refusal(await artist.get(`${url}/out/bmp`), 404, /known/);
  const sizes = await (await artist.get(`${url}/sizes`)).json();
  expect(sizes.merged_bytes).toBeLessThan(sizes.strokes_bytes);
  // A proof is answered once, and wholly.
  const made = await (await artist.get(`${p}/brushes/${brush.id}`)).json();
  expect(made.pen).toBeTruthy();
  const blind = await (await artist.post(`${p}/brushes/${brush.id}/versions/1/blind`, { data: {} })).json();
  const answers = blind.lines.map(() => true);
  await refusal(await artist.post(`${p}/brushes/${brush.id}/blind/${blind.id}`, { data: { of_pen: answers.slice(1) } }), 422, /not all of its lines/);
  const told = await (await artist.post(`${p}/brushes/${brush.id}/blind/${blind.id}`, { data: { of_pen: answers } })).json();
  // As many of either are shown: taking all for the pen's is right half of the time.
  expect([told.result.right, told.result.of]).toEqual([10, 20]);
  await refusal(await artist.post(`${p}/brushes/${brush.id}/blind/${blind.id}`, { data: { of_pen: answers } }), 422, /answered already/);
});
