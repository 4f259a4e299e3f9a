import ICAL from 'ical.js';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plainSection } from '../../src/core/content/section.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import { insertAnnouncement, saveRevision } from '../../src/server/announcements/store.ts';
import { databaseNow, type Database } from '../../src/server/database/connection.ts';
import { confirmSignUps } from '../../src/server/engine/confirmationRun.ts';
import { signLink } from '../../src/server/links/signed.ts';
import { mailTransport } from '../../src/server/mail/transport.ts';
import { openForChange } from '../../src/server/sends/changing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { publishCorrection } from '../../src/server/sends/correcting.ts';
import { reinstate, withdraw } from '../../src/server/sends/withdrawing.ts';
import { openInvitation, openSignUp, signUp, takeNameOff } from '../../src/server/sign-ups/service.ts';
import { allSignUps } from '../../src/server/sign-ups/store.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  followAll,
  freshDatabase,
  mailHouse,
  plan,
  SECRET,
  toGroups,
  type MailHouse,
} from './world.ts';

let db: Database;
let house: MailHouse;
let occurrenceId: number;
let startMs: number;
const ZONE = 'Asia/Kathmandu';
const event = () => ({
  wall: wallAt(startMs, ZONE),
  zone: ZONE,
  minutes: 90,
  place: 'Room 2',
  link: 'https://maps.visitors.example/room-2',
  signUp: true,
});

beforeAll(async () => {
  ({ db } = await freshDatabase('signups'));
  await addPeople(db, 6);
  house = await mailHouse();
  const group = await addGroup(db, 'Readers', [3, 4, 5]);
  startMs = Math.floor((await databaseNow(db)) / 60_000) * 60_000 + 3 * 86_400_000;
  const id = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'An open afternoon', event: event() }),
    plan({ audience: toGroups([group]) }),
    'draft',
  );
  ({ occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, 'sign-ups-key-1'));
  await expandNow(db, occurrenceId);
});
afterAll(async () => {
  await house.stop();
  await db.destroy();
});

/** Hands over what is due, as `engines` engines at once do. */
async function handOver(engines = 1): Promise<void> {
  const nowMs = await databaseNow(db);
  const worlds = Array.from({ length: engines }, () => ({
    transport: mailTransport(house.url, 'desk@test.example', 4),
    secret: SECRET,
    publicUrl: 'http://bell.test',
    connections: 4,
    nowMs: () => nowMs,
  }));
  await Promise.all(worlds.map((world) => confirmSignUps(db, world, 60)));
  for (const world of worlds) world.transport.close();
}

async function signUpAs(name: string, mail: string, zone: string | null): Promise<void> {
  const token = signLink(SECRET, { purpose: 'event', occurrenceId, personId: 4 }, await databaseNow(db));
  const invitation = await openInvitation(db, SECRET, token);
  if (invitation.state !== 'good') throw new Error(invitation.state);
  await signUp(db, invitation, { name, mail, zone });
}

const saying = (words: string) => [
  plainSection({ type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }] }),
];

const mailsTo = async (to: string) => (await house.mails()).filter((mail) => mail.to === to).toReversed();

/** The event that came with a mail. */
function calendarIn(raw: string): ICAL.Event & { status: unknown } {
  const part = /Content-Type: text\/calendar[^]*?\r?\n\r?\n([A-Za-z0-9+/=\r\n]+?)\r?\n\r?\n?--/i.exec(
    raw,
  )?.[1];
  const text = Buffer.from(part ?? '', 'base64').toString('utf8');
  const found = new ICAL.Component(ICAL.parse(text) as unknown[]).getFirstSubcomponent('vevent');
  return Object.assign(new ICAL.Event(found ?? undefined), {
    status: found?.getFirstPropertyValue('status'),
  });
}

/** The token of the link with which a name is taken off. */
const linkIn = (text: string): string => /\/m\/sign-up\/(\S+)/.exec(text)?.[1] ?? '';

describe('whoever signs up', () => {
  it('gets one confirmation, on their own clock and with the event, however often they press and however many engines run', async () => {
    await signUpAs('Ines Valdo', 'Ines@visitors.example', 'America/Sao_Paulo');
    await signUpAs('Ines V.', 'ines@visitors.example', 'Europe/Oslo');
    await handOver(4);
    await handOver();
    const mails = await mailsTo('ines@visitors.example');
    expect(mails.map((mail) => mail.subject)).toEqual(['You are signed up: An open afternoon']);
    const [mail] = mails;
    expect(mail?.text).toContain(wallAt(startMs, 'America/Sao_Paulo').slice(11));
    expect(mail?.text).toContain('Room 2');
    const told = calendarIn(mail?.raw ?? '');
    expect(told.startDate.toJSDate().getTime()).toBe(startMs);
    expect(told.sequence).toBe(0);
    expect(await allSignUps(db, occurrenceId)).toHaveLength(1);
  });

  it('is told by the clock of the event where their browser tells none', async () => {
    await signUpAs('Oto', 'oto@visitors.example', null);
    await handOver();
    expect((await mailsTo('oto@visitors.example'))[0]?.text).toContain(wallAt(startMs, ZONE).slice(11));
  });

  it('waits where the mail server is down, and gets it when it is back', async () => {
    await house.mood('down');
    await signUpAs('Late', 'late@visitors.example', null);
    await handOver();
    await house.mood('well');
    await handOver();
    expect(await mailsTo('late@visitors.example')).toEqual([]);
    await db('sign_ups')
      .where({ state: 'waiting' })
      .update({ try_at: db.raw('NOW(3)') });
    await handOver();
    expect(await mailsTo('late@visitors.example')).toHaveLength(1);
  });

  it('hears of it when it moves, with the same entry moved, and not when only its words are corrected', async () => {
    const correct = async (words: string): Promise<void> => {
      const { announcementId } = await openForChange(db, coordinator, occurrenceId, 'correct');
      const { revision, plan: planned } = await openAnnouncement(db, coordinator, announcementId);
      const corrected = content({ title: 'An open afternoon', sections: saying(words), event: event() });
      await saveRevision(db, announcementId, revision, coordinator.id, corrected, planned);
      await publishCorrection(
        db,
        coordinator,
        announcementId,
        { revision: revision + 1, note: 'Mended', tell: 'nobody', askAgain: false },
        `sign-ups-correct-${words.length}`,
      );
      await followAll(db);
      await handOver();
    };
    const [before] = await mailsTo('ines@visitors.example');
    startMs += 3_600_000;
    await correct('An hour later');
    const [, moved, ...more] = await mailsTo('ines@visitors.example');
    expect(more).toEqual([]);
    expect(moved?.subject).toBe('It has changed: An open afternoon');
    const entry = calendarIn(moved?.raw ?? '');
    expect(entry.startDate.toJSDate().getTime()).toBe(startMs);
    expect(entry.uid).toBe(calendarIn(before?.raw ?? '').uid);
    expect(entry.sequence).toBe(1);
    const standing = () => db('sign_ups').where({ name: 'Ines Valdo' }).first('state', 'sent_at');
    const told: unknown = await standing();
    await correct('Other words');
    expect(await mailsTo('ines@visitors.example')).toHaveLength(2);
    expect(await standing()).toEqual(told);
  });

  it('hears when it is withdrawn, with the entry called off, and when it holds again', async () => {
    await withdraw(db, coordinator, occurrenceId, { note: 'Not now' });
    await followAll(db);
    await handOver();
    const [, , off] = await mailsTo('ines@visitors.example');
    expect(off?.subject).toBe('Taken back: An open afternoon');
    expect(calendarIn(off?.raw ?? '').status).toBe('CANCELLED');
    expect(off?.text).not.toContain('/m/sign-up/');
    await reinstate(db, coordinator, occurrenceId);
    await followAll(db);
    await handOver();
    const [, , , again] = await mailsTo('ines@visitors.example');
    expect(again?.subject).toBe('It has changed: An open afternoon');
    expect(calendarIn(again?.raw ?? '').sequence).toBe(3);
  });

  it('takes their name off by the link in the mail, and nobody else’s; opening it alone does nothing', async () => {
    const nowMs = await databaseNow(db);
    const [mail] = await mailsTo('oto@visitors.example');
    const token = linkIn(mail?.text ?? '');
    expect((await openSignUp(db, SECRET, token.replace(/^s/, 'e'))).state).toBe('altered');
    const other = signLink(SECRET, { purpose: 'coming', occurrenceId, personId: 1 }, nowMs);
    expect((await openSignUp(db, SECRET, other)).state).toBe('altered');
    const own = await openSignUp(db, SECRET, token);
    expect(own).toMatchObject({ state: 'good', name: 'Oto', title: 'An open afternoon' });
    expect((await allSignUps(db, occurrenceId)).map((each) => each.name)).toContain('Oto');
    if (own.state === 'good') await takeNameOff(db, own);
    expect((await allSignUps(db, occurrenceId)).map((each) => each.name)).toEqual(['Ines Valdo', 'Late']);
    expect((await openSignUp(db, SECRET, token)).state).toBe('gone');
  });
});
