import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Database } from '../../src/server/database/connection.ts';
import { imageAddressSchema, keepFromAddress } from '../../src/server/uploads/fromAddress.ts';
import { addPeople, coordinator, countOf, freshDatabase, refusal } from './world.ts';

let db: Database;
let server: Server;
let origin = '';
const asked: string[] = [];
beforeAll(async () => {
  ({ db } = await freshDatabase('image_address'));
  const png = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#336699' } })
    .png()
    .toBuffer();
  server = createServer((request, response) => {
    asked.push(request.url ?? '');
    if (request.url === '/shelf.png') response.writeHead(200, { 'content-type': 'image/png' }).end(png);
    else if (request.url === '/page')
      response.writeHead(200, { 'content-type': 'image/png' }).end('<p>No image.</p>');
    else if (request.url === '/large') response.writeHead(200).end(Buffer.alloc(10_000_001));
    else response.writeHead(404).end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise((resolve) => server.close(resolve));
  await db.destroy();
});

describe('an image at an address', () => {
  const take = (path: string, inside: string[] = [origin]) =>
    keepFromAddress(db, coordinator, { address: `${origin}${path}` }, inside);

  it('is fetched once and kept as it is then, in the size and kind all images have', async () => {
    expect(await take('/shelf.png')).toMatchObject({ width: 40, height: 30 });
    expect(await countOf(db, "FROM uploads WHERE mime = 'image/webp'")).toBe(1);
    expect(asked).toEqual(['/shelf.png']);
  });

  it('is refused at its field with the reason, and nothing is kept', async () => {
    const before = await countOf(db, 'FROM uploads');
    for (const [path, words] of [
      ['/none.png', 'answered 404'],
      ['/page', 'not an image we can show'],
      ['/large', 'Send a smaller one'],
    ] as const) {
      const problem = await refusal(take(path));
      expect(problem).toMatchObject({ status: 422, errors: [{ field: 'address' }] });
      expect(problem.message).toContain(words);
    }
    expect(await countOf(db, 'FROM uploads')).toBe(before);
  });

  it('is never fetched from the internal network where the operator does not list it, nor for a member', async () => {
    asked.length = 0;
    expect((await refusal(take('/shelf.png', []))).message).toContain('on the internal network');
    const [member] = await addPeople(db, 1);
    expect(
      await refusal(
        keepFromAddress(
          db,
          { ...coordinator, id: member!, role: 'member' },
          { address: `${origin}/shelf.png` },
          [origin],
        ),
      ),
    ).toMatchObject({ status: 403 });
    expect(asked).toEqual([]);
    for (const address of ['ftp://shelf.example/a.png', 'shelf.png', 'javascript:alert(1)', ''])
      expect(imageAddressSchema.safeParse({ address }).success).toBe(false);
  });
});
