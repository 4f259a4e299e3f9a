import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Image } from '../../src/core/content/section.ts';
import { senderSchema } from '../../src/core/senders/senderSchema.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { readItem } from '../../src/server/inbox/service.ts';
import { openBoard } from '../../src/server/boards/service.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { expandNow } from './expandNow.ts';
import { changeSender, deleteSender, listSenders, makeSender } from '../../src/server/senders/service.ts';
import { serveUpload } from '../../src/server/uploads/serving.ts';
import { keepImage } from '../../src/server/uploads/service.ts';
import { layOut } from '../../src/server/engine/layingOut.ts';
import { addPeople, coordinator, freshDatabase, sendNow } from './world.ts';

let db: Database;
let editor: typeof coordinator;
const drawn = (colour: string): Promise<Buffer> =>
  sharp({ create: { width: 300, height: 200, channels: 3, background: colour } })
    .png()
    .toBuffer();
async function picture(colour: string): Promise<Image> {
  const { key, width, height } = await keepImage(db, coordinator, await drawn(colour), `${colour}.png`);
  return { key, width, height, alt: '', placement: 'beside', focus: { x: 50, y: 50 } };
}

beforeAll(async () => {
  ({ db } = await freshDatabase('senders'));
  const [id = 0] = await addPeople(db, 1);
  editor = { ...coordinator, id, role: 'editor' };
});
afterAll(() => db.destroy());

describe('a named sender', () => {
  let board: number;
  let occurrence: number;
  let id: number;
  const input = (part: object): ReturnType<typeof senderSchema.parse> =>
    senderSchema.parse({ name: 'The vault desk', ...part });
  const onBoard = async (): Promise<string | null> =>
    (await openBoard(db, coordinator, board)).posts[0]?.senderPicture ?? null;
  /** The picture behind a signed path, as anybody reads it who has the path. */
  async function read(path: string): Promise<{ width: number; height: number }> {
    const url = new URL(path, 'http://bell.test');
    const [, , key = '', as = ''] = url.pathname.split('/');
    const served = await serveUpload(
      db,
      { actor: null, signed: url.searchParams.get('in'), draft: null },
      key,
      as,
    );
    const { width, height } = await sharp(served.bytes).metadata();
    return { width, height };
  }

  it('shows its picture, square, wherever something stands under its name, and a new one at once', async () => {
    board = await insertBoard(db, {
      name: 'Vaults',
      about: '',
      groupId: null,
      ...PRESETS.talk.switches,
      ownerId: coordinator.id,
      takesThanks: false,
      position: 1,
    });
    ({ id } = await makeSender(db, coordinator, input({ picture: null })));
    occurrence = await sendNow(
      db,
      { audience: { kind: 'everyone' }, boards: [board] },
      { byline: 'The vault desk' },
    );
    await expandNow(db, occurrence);
    expect(await onBoard()).toBeNull();

    await changeSender(db, coordinator, id, input({ picture: await picture('#204060') }));
    const first = await onBoard();
    expect(await read(first!)).toEqual({ width: 200, height: 200 });
    const inInbox = (await readItem(db, editor.id, occurrence)).senderPicture;
    expect(await read(inInbox!)).toEqual({ width: 200, height: 200 });
    const { letter } = await layOut(db, 'https://bell.test', (await occurrenceById(db, occurrence))!);
    const { html } = letter({
      why: '',
      readUrl: '#',
      answerUrl: '#',
      unsubscribeUrl: '#',
      deadline: '',
      passOnUrl: '#',
      comingUrl: '#',
      reader: { name: 'X', station: null, greeting: '', occupation: '', zone: 'UTC', atMs: 0, eventMs: null },
    });
    const mailed = /https:\/\/bell\.test(\/files\/[^"]+\.jpg\?in=[^"]+)/.exec(html)?.[1];
    expect(mailed).toBeDefined();
    await read(mailed!.replaceAll('&amp;', '&'));

    await changeSender(db, coordinator, id, input({ picture: await picture('#602040') }));
    expect(await onBoard()).not.toBe(first);
    // The picture it had stands nowhere any more.
    await expect(read(first!)).rejects.toMatchObject({ status: 404 });
  });

  it('is changed by coordinators, has a name of its own, and goes only where nothing speaks under it', async () => {
    const other = await makeSender(db, editor, input({ name: 'The field desk' }));
    await expect(makeSender(db, editor, input({ name: 'the vault desk' }))).rejects.toMatchObject({
      errors: [{ field: 'name' }],
    });
    const theirs = await picture('#000000');
    await expect(makeSender(db, editor, input({ name: 'A thief', picture: theirs }))).rejects.toMatchObject({
      status: 422,
    });
    await expect(changeSender(db, editor, other.id, input({ name: 'Mine' }))).rejects.toMatchObject({
      status: 403,
    });
    await expect(deleteSender(db, editor, other.id)).rejects.toMatchObject({ status: 403 });
    await db('hooks_in').insert({
      name: 'Doors',
      address_key: 'k'.repeat(22),
      mail_key: 'm',
      hook: JSON.stringify({ senderId: id }),
      secret: Buffer.from('x'),
      owner_id: coordinator.id,
    });
    await expect(deleteSender(db, coordinator, id)).rejects.toMatchObject({
      status: 409,
      message: '1 way in speaks under “The vault desk”. Give them another sender first.',
    });
    await deleteSender(db, coordinator, other.id);
    expect((await listSenders(db, editor)).map(({ name, waysIn }) => [name, waysIn])).toEqual([
      ['The vault desk', 1],
    ]);
  });
});
