import { generateKeyPairSync } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dkimVerify } from 'mailauth/lib/dkim/verify.js';
import nodemailer from 'nodemailer';
import pino from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/house/ports.ts';
import { until } from '../../scripts/house/processes.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import type { Switches } from '../../src/core/boards/switchesSchema.ts';
import type { Doc } from '../../src/core/content/document.ts';
import { plainWords } from '../../src/core/content/text.ts';
import { hookInSchema, type HookIn } from '../../src/core/gateways/hookIn.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { briefOf } from '../../src/core/sends/forecast.ts';
import { forecast } from '../../src/server/sends/forecast.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import { addHookIn, openHookIn, switchHookIn } from '../../src/server/gateways/inService.ts';
import { answerAddress } from '../../src/server/mail-in/address.ts';
import { mailSigning, mailTransport } from '../../src/server/mail/transport.ts';
import { startMailIn } from '../../src/server/mail-in/server.ts';
import { notify, idList } from '../../src/server/notices/store.ts';
import { listPeople } from '../../src/server/people/service.ts';
import { trustAddress } from '../../src/server/people/failing.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import {
  addPeople,
  content,
  coordinator,
  freshDatabase,
  mailHouse,
  plan,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
  addGroup,
  type MailHouse,
} from './world.ts';

const DOMAIN = 'in.test.example';
const SERVER = 'mx.test.example';
const PROVEN = { 'Authentication-Results': `${SERVER}; dmarc=pass` };

let db: Database;
let port: number;
let people: number[];
let mail: MailHouse;
let engine: Engine;
let receiver: { stop: () => Promise<void> };
beforeAll(async () => {
  const fresh = await freshDatabase('mail_in');
  ({ db } = fresh);
  people = await addPeople(db, 12, 1);
  port = await freePort();
  receiver = await startMailIn(
    {
      db,
      log: pino({ level: 'silent' }),
      attempts: new AttemptLimit(fresh.url),
      secret: SECRET,
      domain: DOMAIN,
      server: SERVER,
    },
    { port, host: '127.0.0.1' },
  );
  mail = await mailHouse({ port, domain: DOMAIN, server: SERVER });
  engine = await startEngine(db, mail.url, { mailDomain: DOMAIN });
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await receiver.stop();
  await db.destroy();
});

const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const mailOf = async (id: number): Promise<string> =>
  (await rows<{ mail: string }>(db, 'SELECT mail FROM people WHERE id = ?', [id]))[0]?.mail ?? '';

interface Sent {
  to: string;
  from: string;
  subject?: string;
  text?: string;
  html?: string;
  headers?: Record<string, string>;
  messageId?: string;
  /** The sender of the envelope. */
  sender?: string;
  attachments?: { filename: string; content: Buffer | string }[];
}
let sent = 0;
/** Hands a mail to the receiver as a mail server does; gives its answer. */
async function hand({ to, from, sender = from, headers = PROVEN, ...given }: Sent): Promise<string> {
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port, ignoreTLS: true });
  try {
    const { response } = await transport.sendMail({
      from,
      to,
      subject: 'A subject',
      text: 'A text.',
      messageId: `<test.${++sent}@place.example>`,
      envelope: { from: sender, to },
      headers,
      ...given,
    });
    return response;
  } catch (error) {
    return (error as { response?: string }).response ?? String(error);
  } finally {
    transport.close();
  }
}

let boards = 0;
const board = (switches: Partial<Switches> = {}): Promise<number> =>
  insertBoard(db, {
    name: `Board ${++boards}`,
    about: '',
    groupId: null,
    ...PRESETS.talk.switches,
    gateways: true,
    ...switches,
    ownerId: coordinator.id,
    takesThanks: false,
    position: boards,
  });
async function wayIn(
  target: HookIn['target'],
  part: Partial<HookIn>,
): Promise<{ id: number; address: string }> {
  const hook = hookInSchema.parse({
    name: `System ${++boards}`,
    target,
    senderId: null,
    held: false,
    perMinute: 100,
    mapping: null,
    fields: [],
    ...part,
  });
  const { id } = await addHookIn(db, coordinator, hook, SECRET);
  const page = await openHookIn(db, coordinator, id, {
    publicUrl: 'https://bell.example',
    mailDomain: DOMAIN,
  });
  return { id, address: page.mailAddress ?? '' };
}
const callsOf = async (id: number) =>
  (await openHookIn(db, coordinator, id, { publicUrl: 'https://bell.example', mailDomain: DOMAIN })).calls;
const postsOn = (id: number) =>
  rows<{ title: string; authorId: number; state: string; hookId: number | null; body: string }>(
    db,
    `SELECT v.title, o.author_id AS authorId, o.state, o.hook_id AS hookId, v.body FROM posts o
     JOIN announcement_versions v ON v.id = o.version_id WHERE o.board_id = ? ORDER BY o.id`,
    [id],
  );
const repliesTo = async (postId: number) =>
  (
    await rows<{ authorId: number; document: string; files: string }>(
      db,
      'SELECT author_id AS authorId, document, files FROM replies WHERE post_id = ? ORDER BY id',
      [postId],
    )
  ).map(({ authorId, document, files }) => ({
    authorId,
    words: plainWords(JSON.parse(document) as Doc),
    files: (JSON.parse(files) as { name: string }[]).map(({ name }) => name),
  }));
const post = async (boardId: number): Promise<number> =>
  (
    await writePost(
      db,
      coordinator,
      boardId,
      {
        title: 'Who brings the press?',
        document: {
          type: 'doc',
          content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Say so.' }] }],
        },
        image: null,
        gallery: [],
        files: [],
      },
      `post.${++sent}`,
    )
  ).id;

describe('an answer to a notice', () => {
  it('stands under the post, once, without what it quotes, with what was attached', async () => {
    const [reader = 0] = people;
    const of = await post(await board());
    await notify(db, idList([reader]), {
      kind: 'mention',
      title: 'Who brings the press?',
      text: 'You are named.',
      path: `/posts/${of}`,
      why: 'You are called on by name.',
      dedupeKey: `test:${of}`,
    });
    const to = await mailOf(reader);
    const came = async () =>
      (await mail.mails()).find((each) => each.to === to && each.replyTo !== undefined);
    expect(await until(async () => (await came()) !== undefined, 15_000)).toBe(true);
    const notice = await came();
    expect(notice?.text).toContain('Answer this mail');
    const answer: Sent = {
      to: notice?.replyTo ?? '',
      from: to,
      messageId: '<answer.1@place.example>',
      text: `I bring it.\n\nOn Mon, 5 Oct 2026 at 09:00, The desk <desk@test.example> wrote:\n> Who brings the press?\n`,
      attachments: [
        { filename: 'list.txt', content: 'one\ntwo' },
        { filename: 'tool.exe', content: Buffer.from([77, 90, 0, 1, 2, 3]) },
      ],
    };
    expect(await hand(answer)).toMatch(/^250/);
    expect(await hand(answer)).toMatch(/^250/);
    expect(await repliesTo(of)).toEqual([{ authorId: reader, words: 'I bring it.', files: ['list.txt'] }]);
  });

  it('is nothing where somebody else wrote it, nobody did, or it cannot be proved', async () => {
    const [reader = 0, other = 0] = people;
    const of = await post(await board());
    const to = answerAddress(SECRET, DOMAIN, reader, of);
    const from = await mailOf(reader);
    expect(await hand({ to, from: await mailOf(other) })).toMatch(/^550 5\.7\.1 .*not an address/);
    expect(await hand({ to, from, headers: {} })).toMatch(/^550 5\.7\.1 .*prove/);
    expect(
      await hand({ to, from, headers: { 'Authentication-Results': 'mx.other.example; dmarc=pass' } }),
    ).toMatch(/^550/);
    expect(await hand({ to, from, headers: { ...PROVEN, 'Auto-Submitted': 'auto-replied' } })).toMatch(
      /^250/,
    );
    expect(await hand({ to, from, sender: '' })).toMatch(/^250/);
    expect(await hand({ to, from, headers: { ...PROVEN, 'X-Loop': DOMAIN } })).toMatch(/^550 .*circle/);
    expect(await hand({ to, from, text: '> only what was quoted' })).toMatch(/^550 .*says nothing/);
    expect(await hand({ to: to.replace(/answer-(.)/, 'answer-z'), from })).toMatch(/^550 5\.1\.1/);
    expect(await hand({ to: `somebody@${DOMAIN}`, from })).toMatch(/^550 5\.1\.1/);
    expect(await repliesTo(of)).toEqual([]);
    const closed = await post(await board({ replying: 'nobody' }));
    expect(await hand({ to: answerAddress(SECRET, DOMAIN, reader, closed), from })).toMatch(
      /^550 .*no replies/,
    );
    expect(await repliesTo(closed)).toEqual([]);
  });

  it('is told from another without a Message-ID by what it says', async () => {
    const reader = people[2] ?? 0;
    const of = await post(await board());
    const to = answerAddress(SECRET, DOMAIN, reader, of);
    const from = await mailOf(reader);
    const raw = (text: string): string =>
      [
        `Authentication-Results: ${SERVER}; dmarc=pass`,
        `From: ${from}`,
        `To: ${to}`,
        'Subject: Re: it',
        '',
        text,
        '',
      ].join('\r\n');
    const transport = nodemailer.createTransport({ host: '127.0.0.1', port, ignoreTLS: true });
    for (const text of ['One.', 'Two.', 'One.'])
      await transport.sendMail({ envelope: { from, to }, raw: raw(text) });
    transport.close();
    expect((await repliesTo(of)).map(({ words }) => words)).toEqual(['One.', 'Two.']);
  });

  it('is put off past ten in ten minutes, so that two systems that answer each other end', async () => {
    const reader = people[11] ?? 0;
    const of = await post(await board());
    const from = await mailOf(reader);
    const to = answerAddress(SECRET, DOMAIN, reader, of);
    const answers: string[] = [];
    for (let n = 0; n < 12; n++) answers.push((await hand({ to, from, text: `Answer ${n}.` })).slice(0, 3));
    expect(answers).toEqual([...Array.from({ length: 10 }, () => '250'), '451', '451']);
    expect(await repliesTo(of)).toHaveLength(10);
  });
});

describe('mail to a way in', () => {
  it('from a listed system goes up under its sender, once, as a clean post with its files', async () => {
    const on = await board();
    const way = await wayIn(
      { kind: 'board', boardId: on },
      { name: 'The press room', mail: { from: ['@press.example'], members: false } },
    );
    const letter: Sent = {
      to: way.address,
      from: 'loans@press.example',
      subject: 'Loan 12 is ready',
      html: '<style>p{color:red}</style><h2>Ready</h2><p>Come <b>today</b>.</p><script>run()</script>',
      headers: { ...PROVEN, 'Auto-Submitted': 'auto-generated' },
      messageId: '<loan.12@press.example>',
      attachments: [{ filename: 'loan.csv', content: 'a,b\n1,2' }],
    };
    expect(await hand(letter)).toMatch(/^250/);
    expect(await hand(letter)).toMatch(/^250/);
    const [up, ...more] = await postsOn(on);
    expect(more).toEqual([]);
    expect(up).toMatchObject({ title: 'Loan 12 is ready', hookId: way.id, state: 'up' });
    const body = up?.body ?? '';
    expect(body).toContain('loan.csv');
    expect(body).toContain('"level":2');
    expect(body).not.toMatch(/run\(|color:red/);
    expect((await callsOf(way.id)).map(({ outcome, status }) => [outcome, status])).toEqual([
      ['repeated', 250],
      ['taken', 250],
    ]);
  });

  it('from a member is their own post, by their own rights', async () => {
    const [writer = 0] = people;
    const from = await mailOf(writer);
    const open = await board();
    const held = await board({ posting: 'held' });
    const shut = await board({ posting: 'moderators' });
    const said: [number, RegExp][] = [
      [open, /^250/],
      [held, /^250/],
      [shut, /^550 5\.7\.1/],
    ];
    for (const [on, answer] of said) {
      const way = await wayIn({ kind: 'board', boardId: on }, { mail: { from: [], members: true } });
      expect(await hand({ to: way.address, from, subject: 'From the train' })).toMatch(answer);
      // Somebody who belongs to nobody here, and a machine of theirs.
      expect(await hand({ to: way.address, from: 'stranger@place.example' })).toMatch(/^550 5\.7\.1/);
      expect(await hand({ to: way.address, from, headers: { ...PROVEN, 'List-Id': '<l.example>' } })).toMatch(
        /^550/,
      );
      expect(await hand({ to: way.address, from, headers: {} })).toMatch(/^550 .*prove/);
    }
    expect(await postsOn(open)).toMatchObject([{ authorId: writer, state: 'up', hookId: null }]);
    expect((await postsOn(held)).map(({ state }) => state)).toEqual(['held']);
    expect(await postsOn(shut)).toEqual([]);
  });

  it('from a member whose whole domain is listed is theirs by their own rights, and not the system’s', async () => {
    const from = await mailOf(people[0] ?? 0);
    const domain = `@${from.split('@')[1] ?? ''}`;
    const shut = await board({ posting: 'moderators' });
    const both = await wayIn({ kind: 'board', boardId: shut }, { mail: { from: [domain], members: true } });
    expect(await hand({ to: both.address, from })).toMatch(/^550 5\.7\.1/);
    expect(await hand({ to: both.address, from: `system${domain}` })).toMatch(/^250/);
    expect(await postsOn(shut)).toMatchObject([{ authorId: coordinator.id, hookId: both.id }]);
  });

  it('says what it refused and why, keeps nothing that proved nothing, and answers no automatic answer', async () => {
    const on = await board();
    const way = await wayIn(
      { kind: 'board', boardId: on },
      { mail: { from: ['a@press.example'], members: false } },
    );
    const from = 'a@press.example';
    expect(
      await hand({ to: way.address, from, headers: { ...PROVEN, 'Auto-Submitted': 'auto-replied' } }),
    ).toMatch(/^250/);
    expect(await hand({ to: way.address, from, headers: {}, text: 'a secret' })).toMatch(/^550/);
    await switchHookIn(db, coordinator, way.id, false);
    expect(await hand({ to: way.address, from })).toMatch(/^550 .*switched off/);
    const calls = await callsOf(way.id);
    expect(calls.map(({ outcome, status }) => `${outcome} ${status}`)).toEqual(Array(3).fill('refused 550'));
    expect(JSON.stringify(calls)).not.toContain('a secret');
    expect(await postsOn(on)).toEqual([]);
  });

  it('is refused where it is too large, and taken where it is odd', async () => {
    const on = await board();
    const way = await wayIn(
      { kind: 'board', boardId: on },
      { mail: { from: ['a@press.example'], members: false } },
    );
    const from = 'a@press.example';
    const large = [{ filename: 'large.txt', content: Buffer.alloc(26_000_000, 'a') }];
    expect(await hand({ to: way.address, from, attachments: large })).toMatch(/^552/);
    expect(await hand({ to: way.address, from, subject: '', text: '{{name}} <b>not</b> **bold**' })).toMatch(
      /^250/,
    );
    const nested = '<div>'.repeat(3_000) + 'deep' + '</div>'.repeat(3_000);
    expect(await hand({ to: way.address, from, subject: 'Deep', html: nested })).toMatch(/^(250|550)/);
    expect((await postsOn(on))[0]).toMatchObject({ title: 'A mail without a subject' });
    // It still answers.
    expect(await hand({ to: way.address, from, subject: 'After' })).toMatch(/^250/);
  });
});

describe('what comes back', () => {
  it('is told of the send and of the person, and no mail goes there until somebody says so', async () => {
    const reader = people[5] ?? 0;
    const group = await addGroup(db, 'Coming back', [reader]);
    const to = await mailOf(reader);
    const first = await sendNow(db, { audience: toGroups([group]), mail: true });
    await reaches(db, first, 'sent');
    const delivery = async (occurrence: number) =>
      (
        await rows<{ state: string; reason: string | null }>(
          db,
          "SELECT state, reason FROM deliveries WHERE occurrence_id = ? AND person_id = ? AND method = 'mail'",
          [occurrence, reader],
        )
      )[0];
    expect(await delivery(first)).toMatchObject({ state: 'delivered' });
    const caught = (await mail.mails()).find(
      (each) => each.to === to && each.messageId.startsWith(`<${first}.`),
    );
    expect(caught?.replyTo).toBeUndefined();
    expect(await mail.comeBack(caught?.id ?? 0)).toContain('It was taken');
    expect(await delivery(first)).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('No such mailbox') as string,
    });
    const shown = async () =>
      (await listPeople(db, coordinator, { shown: 'mail comes back' } as never)).people.map(({ id }) => id);
    expect(await shown()).toEqual([reader]);
    const second = await sendNow(db, { audience: toGroups([group]), mail: true });
    await reaches(db, second, 'sent');
    expect(await delivery(second)).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('comes back') as string,
    });
    const outlook = await forecast(
      db,
      coordinator,
      plan({ audience: toGroups([group]), mail: true }),
      briefOf(content()),
    );
    expect(outlook).toMatchObject({ byMail: 0, missed: [{ kind: 'mail comes back', n: 1 }] });
    // Nobody else may say so, and saying it twice is saying it once.
    await expect(trustAddress(db, member(people[0] ?? 0), reader)).rejects.toMatchObject({ status: 403 });
    await trustAddress(db, coordinator, reader);
    await trustAddress(db, coordinator, reader);
    expect(await shown()).toEqual([]);
    const third = await sendNow(db, { audience: toGroups([group]), mail: true });
    await reaches(db, third, 'sent');
    expect(await delivery(third)).toMatchObject({ state: 'delivered' });
  });

  it('says nothing of an address that is not theirs any more', async () => {
    const reader = people[6] ?? 0;
    const group = await addGroup(db, 'Moved house', [reader]);
    const to = await mailOf(reader);
    const occurrence = await sendNow(db, { audience: toGroups([group]), mail: true });
    await reaches(db, occurrence, 'sent');
    const caught = (await mail.mails()).find(
      (each) => each.to === to && each.messageId.startsWith(`<${occurrence}.`),
    );
    await db('people').where({ id: reader }).update({ mail: 'new@test.example' });
    await mail.comeBack(caught?.id ?? 0);
    const [person] = await rows<{ failing: string | null }>(
      db,
      'SELECT mail_failing AS failing FROM people WHERE id = ?',
      [reader],
    );
    expect(person?.failing).toBeNull();
  });
});

describe('mail that goes out', () => {
  const keys = generateKeyPairSync('rsa', {
    modulusLength: 2048,
    publicKeyEncoding: { type: 'spki', format: 'der' },
    privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  });

  it('is signed so that a package that did not sign it finds it whole, and altered finds it is not', async () => {
    const house = await mailHouse();
    const transport = mailTransport(house.url, 'desk@test.example', 1, {
      domainName: 'test.example',
      keySelector: 'bell',
      privateKey: keys.privateKey,
    });
    await transport.send({
      messageId: '<signed@test.example>',
      fromName: 'The desk – Zürich',
      toName: 'Ann',
      to: 'ann@place.example',
      subject: 'The press is ready, Łukasz',
      html: '<p>Come.</p>',
      text: 'Come.',
      urgent: false,
      listId: null,
      unsubscribeUrl: 'https://bell.example/u',
      calendar: null,
    });
    transport.close();
    const [caught] = await house.mails();
    await house.stop();
    const raw = caught?.raw ?? '';
    const resolver = (name: string): Promise<string[][]> =>
      name === 'bell._domainkey.test.example'
        ? Promise.resolve([[`v=DKIM1; k=rsa; p=${keys.publicKey.toString('base64')}`]])
        : Promise.reject(Object.assign(new Error('no such name'), { code: 'ENOTFOUND' }));
    const verdict = async (mail: string): Promise<string | undefined> =>
      (await dkimVerify(mail, { resolver })).results[0]?.status.result;
    expect(await verdict(raw)).toBe('pass');
    expect(await verdict(raw.replace('Come.', 'Stay.'))).not.toBe('pass');
    expect(await verdict(raw.replace(/^Subject: .*$/m, 'Subject: Another'))).not.toBe('pass');
  });

  it('is signed by all three settings or by none, with a key that is one', () => {
    const folder = mkdtempSync(join(tmpdir(), 'dkim-'));
    const file = join(folder, 'key.pem');
    writeFileSync(file, keys.privateKey);
    writeFileSync(join(folder, 'no.pem'), 'nothing of the kind');
    const of = { MAIL_DKIM_DOMAIN: 'test.example', MAIL_DKIM_SELECTOR: 'bell', MAIL_DKIM_KEY_FILE: file };
    expect(mailSigning(of)).toMatchObject({ domainName: 'test.example', keySelector: 'bell' });
    expect(mailSigning({})).toBeUndefined();
    expect(() => mailSigning({ MAIL_DKIM_DOMAIN: 'test.example' })).toThrow(/all of/);
    for (const each of ['no.pem', 'not-there.pem'])
      expect(() => mailSigning({ ...of, MAIL_DKIM_KEY_FILE: join(folder, each) })).toThrow(
        /MAIL_DKIM_KEY_FILE/,
      );
    rmSync(folder, { recursive: true });
  });
});
