import { simpleParser } from 'mailparser';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PRESETS } from '../../src/core/boards/switches.ts';
import type { Doc } from '../../src/core/content/document.ts';
import { readAnnouncementFile } from '../../src/core/content/fileReading.ts';
import { emptySection, type Image } from '../../src/core/content/section.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { writeReply } from '../../src/server/replies/service.ts';
import { readSettings, type Settings } from '../../src/server/settings.ts';
import { textOfSend, textsOfBoard, textsOfSeries } from '../../src/server/texts/service.ts';
import { keepFile, keepImage } from '../../src/server/uploads/service.ts';
import { expandNow } from './expandNow.ts';
import { addPeople, coordinator, freshDatabase, SECRET, sendNow } from './world.ts';
import { filesIn } from './zipFiles.ts';

let db: Database;
let settings: Settings;
let board: number;
let occurrence: number;
let member: typeof coordinator;
const doc = (text: string): Doc => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
});
const zipped = async (body: ReadableStream<Uint8Array>): Promise<Map<string, Buffer>> =>
  filesIn(Buffer.from(await new Response(body).arrayBuffer()));

beforeAll(async () => {
  const fresh = await freshDatabase('texts');
  ({ db } = fresh);
  settings = readSettings({
    DATABASE_URL: fresh.url,
    CLEAR_BELL_URL: 'https://bell.test',
    CLEAR_BELL_SECRET: SECRET,
    MAIL_URL: 'smtp://127.0.0.1:1',
    MAIL_FROM: 'desk@bell.test',
  });
  const [id = 0] = await addPeople(db, 2);
  member = { ...coordinator, id, role: 'member' };
  board = await insertBoard(db, {
    name: 'Vaults / “all”',
    about: '',
    groupId: null,
    ...PRESETS.talk.switches,
    ownerId: coordinator.id,
    takesThanks: false,
    position: 1,
  });
  const png = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#204060' } })
    .png()
    .toBuffer();
  const kept = await keepImage(db, coordinator, png, 'shelf.png');
  const image: Image = { ...kept, alt: 'A shelf', placement: 'whole', focus: { x: 50, y: 50 } };
  const file = await keepFile(db, coordinator, Buffer.from('%PDF-1.4 keys'), 'keys.pdf');
  occurrence = await sendNow(
    db,
    { audience: { kind: 'everyone' }, boards: [board] },
    {
      title: 'Schlüssel & <locks>',
      byline: 'The vault desk',
      importance: 'urgent',
      button: { label: 'Book', url: 'https://bell.test/book?a=1&b=2' },
      sections: [
        {
          ...emptySection('s1'),
          heading: 'First',
          document: doc('Ünder the stone — 鍵 <b>not bold</b>'),
          image,
          files: [file],
        },
        { ...emptySection('s2'), heading: 'Second', document: doc('Later.') },
      ],
    },
  );
  await expandNow(db, occurrence);
});
afterAll(() => db.destroy());

describe('what was announced, taken out', () => {
  it('is a mail that a package reads that did not write it, whole, with its image and attachment', async () => {
    const { name, body } = await textOfSend(db, coordinator, occurrence, 'eml', settings);
    expect(name).toBe('Schlüssel locks.eml');
    const mail = await simpleParser(body);
    expect(mail.subject).toBe('Schlüssel & <locks>');
    expect(mail.from?.value).toEqual([{ name: 'The vault desk', address: 'desk@bell.test' }]);
    expect(mail.messageId).toBe(`<occurrence.${occurrence}@bell.test>`);
    expect(mail.date?.getTime()).toBeGreaterThan(0);
    expect(mail.headers.get('priority')).toBe('high');
    for (const words of [
      'First',
      'Ünder the stone — 鍵 <b>not bold</b>',
      'Later.',
      'Book: https://bell.test/book?a=1&b=2',
    ])
      expect(mail.text).toContain(words);
    expect(mail.html).toContain('Ünder the stone — 鍵 &lt;b&gt;not bold&lt;/b&gt;');
    // The image stands in its place, out of the mail itself.
    expect(mail.html).not.toContain('src="cid:');
    expect(mail.html).toContain('src="data:image/jpeg');
    expect(mail.attachments.map(({ filename }) => filename).sort()).toEqual(['keys.pdf', 'whole.jpg']);
    expect(mail.attachments.find(({ filename }) => filename === 'keys.pdf')?.content.toString()).toContain(
      '%PDF-1.4',
    );
    // No line is longer than mail allows (RFC 5322, 2.1.1).
    expect(
      Math.max(
        ...body
          .toString('latin1')
          .split('\r\n')
          .map((line) => line.length),
      ),
    ).toBeLessThanOrEqual(998);
  });

  it('is CommonMark that can be brought in again', async () => {
    const { body } = await textOfSend(db, coordinator, occurrence, 'md', settings);
    const read = readAnnouncementFile(String(body));
    expect(read).toMatchObject({
      title: 'Schlüssel & <locks>',
      byline: 'The vault desk',
      importance: 'urgent',
    });
  });

  it('is a folder of a board in which replies follow what they reply to, for whoever looks after it', async () => {
    const [post] = await db('posts').where({ board_id: board }).select<{ id: number }[]>('id');
    const said = [
      await writeReply(db, member, post!.id, { document: doc('Is it open?'), files: [] }, 'texts-reply-1'),
      await writeReply(db, coordinator, post!.id, { document: doc('It is.'), files: [] }, 'texts-reply-2'),
    ];
    const { name, body } = await textsOfBoard(db, coordinator, board, 'eml', settings);
    expect(name).toBe('Vaults all.zip');
    const files = await zipped(body);
    const base = `${post!.id} Schlüssel locks`;
    expect([...files.keys()]).toEqual([`${base}.eml`, ...said.map((id) => `${base} reply ${id}.eml`)]);
    const reply = await simpleParser(files.get(`${base} reply ${said[0]!}.eml`)!);
    expect(reply).toMatchObject({
      subject: 'Re: Schlüssel & <locks>',
      inReplyTo: `<post.${post!.id}@bell.test>`,
      text: expect.stringContaining('Is it open?') as string,
    });
    expect((await simpleParser(files.get(`${base}.eml`)!)).messageId).toBe(reply.inReplyTo);
    const texts = await zipped((await textsOfBoard(db, coordinator, board, 'md', settings)).body);
    expect([...texts.keys()]).toEqual([`${base}.md`, `${base} replies.md`]);
    expect(texts.get(`${base} replies.md`)!.toString()).toMatch(/Is it open\?[\s\S]+It is\./);

    await expect(textsOfBoard(db, member, board, 'md', settings)).rejects.toMatchObject({ status: 403 });
    await expect(textOfSend(db, member, occurrence, 'md', settings)).rejects.toMatchObject({ status: 404 });
    // What was withdrawn is not taken out with the rest.
    await db('occurrences')
      .where({ id: occurrence })
      .update({ withdrawn_at: new Date(), withdrawn_note: 'No' });
    expect((await zipped((await textsOfBoard(db, coordinator, board, 'md', settings)).body)).size).toBe(0);
  });

  it('is a folder of a series, of its issues that have gone', async () => {
    const [id] = await db('series').insert({ name: 'Monday notes', categories: '[]' });
    await expect(textsOfSeries(db, coordinator, id!, 'md', settings)).rejects.toMatchObject({ status: 409 });
    const issue = await sendNow(
      db,
      { audience: { kind: 'everyone' } },
      { title: 'Monday', issue: { seriesId: id!, category: '' } },
    );
    await expandNow(db, issue);
    await db('occurrences').where({ id: issue }).update({ state: 'sent' });
    const files = await zipped((await textsOfSeries(db, coordinator, id!, 'md', settings)).body);
    expect([...files.keys()]).toEqual(['1 Monday.md']);
  });
});
