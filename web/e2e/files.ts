// Files written by hand, byte by byte, for the tests.

import { deflateRawSync, deflateSync } from 'node:zlib';
import { type APIRequestContext, expect, request } from '@playwright/test';

/** CRC-32 as PNG and ZIP have it (ISO/IEC 15948, annex D). */
export function crc32(b: Buffer) {
  let c = ~0;
  for (const v of b) {
    c ^= v;
    for (let k = 0; k < 8; k++) c = (c >>> 1) ^ (c & 1 ? 0xedb88320 : 0);
  }
  return ~c >>> 0;
}

/** A grey PNG of lines, written by hand. */
export function png(width: number, height: number, ink: (x: number, y: number) => boolean): Buffer {
  const rows = Buffer.alloc((width + 1) * height, 255);
  for (let y = 0; y < height; y++) {
    rows[y * (width + 1)] = 0;
    for (let x = 0; x < width; x++) if (ink(x, y)) rows[y * (width + 1) + 1 + x] = 0x1e;
  }
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const head = Buffer.alloc(4);
    head.writeUInt32BE(data.length);
    const sum = Buffer.alloc(4);
    sum.writeUInt32BE(crc32(body));
    return Buffer.concat([head, body, sum]);
  };
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width, 0);
  header.writeUInt32BE(height, 4);
  header[8] = 8;
  return Buffer.concat([Buffer.from('89504e470d0a1a0a', 'hex'), chunk('IHDR', header), chunk('IDAT', deflateSync(rows)), chunk('IEND', Buffer.alloc(0))]);
}

/** A ZIP written by hand. */
export function zip(entries: [string, Buffer][]): Buffer {
  const parts: Buffer[] = [];
  const directory: Buffer[] = [];
  let at = 0;
  for (const [name, data] of entries) {
    const packed = deflateRawSync(data);
    const fields = Buffer.alloc(26);
    fields.writeUInt16LE(20, 0);
    fields.writeUInt16LE(8, 4);
    fields.writeUInt32LE(crc32(data), 10);
    fields.writeUInt32LE(packed.length, 14);
    fields.writeUInt32LE(data.length, 18);
    fields.writeUInt16LE(name.length, 22);
    const local = Buffer.concat([Buffer.from('PK\x03\x04'), fields, Buffer.from(name), packed]);
    const more = Buffer.alloc(14);
    more.writeUInt32LE(at, 10);
    directory.push(Buffer.concat([Buffer.from('PK\x01\x02\x14\x00'), fields, more, Buffer.from(name)]));
    parts.push(local);
    at += local.length;
  }
  const list = Buffer.concat(directory);
  const end = Buffer.alloc(18);
  end.writeUInt16LE(entries.length, 4);
  end.writeUInt16LE(entries.length, 6);
  end.writeUInt32LE(list.length, 8);
  end.writeUInt32LE(at, 12);
  return Buffer.concat([...parts, list, Buffer.from('PK\x05\x06'), end]);
}

/** A new member, by an invitation that they accept; signed in. */
export async function joined(baseURL: string, lead: APIRequestContext, p: string, who: { name: string; email: string; password: string; part: string }) {
  const invited = await lead.post(`${p}/invitations`, { data: { email: who.email, part: who.part } });
  expect(invited.status(), await invited.text()).toBe(201);
  const context = await request.newContext({ baseURL });
  const secret = (await invited.json()).link.split('/').pop();
  const answer = await context.post(`/api/v1/invitations/${secret}`, { data: { name: who.name, password: who.password } });
  expect(answer.status(), await answer.text()).toBe(200);
  return context;
}
