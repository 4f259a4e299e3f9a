import type { z } from 'zod';
import {
  DEFAULT_CHOICES,
  NOTICE_KINDS,
  type Device,
  type NoticeChoices,
  type NoticePage,
} from '../../core/notices/notice.ts';
import type { deviceSchema, noticeChoicesSchema } from '../../core/notices/noticeSchema.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { requirePushAddress } from '../push/address.ts';
import { requireDeviceKeys } from '../push/keys.ts';
import { lockPerson } from '../people/store.ts';
import { devicesOf, forgetDevice, keepDevice } from '../push/store.ts';
import { choicesOf, markNoticesRead, noticesPage, saveChoices } from './store.ts';

const PAGE = 30;

/** What somebody was told, the latest first. */
export async function listNotices(
  db: Database,
  personId: number,
  before: number | null,
): Promise<NoticePage> {
  const found = await noticesPage(db, personId, before, PAGE + 1);
  const page = found.slice(0, PAGE);
  return {
    notices: page.map((notice) => ({ ...notice, read: notice.read === 1 })),
    next: found.length > PAGE ? (page.at(-1)?.id ?? null) : null,
  };
}

export { unreadNotices } from './store.ts';

/** Marks as read what somebody was told: all of it, or what leads to a page they are on. */
export async function readNotices(db: Database, personId: number, path: string | null): Promise<void> {
  if ((await markNoticesRead(db, personId, path)) > 0)
    await emit(db, 'person.notified', { people: [personId], many: false });
}

/** By which ways somebody is told of what, and on which devices. */
export async function noticeSettings(
  db: Database,
  actor: Actor,
): Promise<{ digestAt: string; choices: NoticeChoices; devices: Device[] }> {
  const [{ digestAt, choices }, devices] = await Promise.all([
    choicesOf(db, actor.id),
    devicesOf(db, [actor.id]),
  ]);
  return {
    digestAt,
    choices: Object.fromEntries(
      NOTICE_KINDS.map((kind) => [kind, choices.get(kind) ?? DEFAULT_CHOICES[kind]]),
    ) as NoticeChoices,
    devices: devices.map(({ id, label, madeMs, lastMs }) => ({ id, label, madeMs, lastMs })),
  };
}

export async function chooseNotices(
  db: Database,
  actor: Actor,
  input: z.infer<typeof noticeChoicesSchema>,
): Promise<void> {
  await transact(db, async (trx) => {
    await saveChoices(trx, actor.id, input.digestAt, input.choices);
    await record(trx, {
      actorId: actor.id,
      action: 'choose notices',
      subject: 'person',
      subjectId: actor.id,
    });
  });
}

/** Stops every mail that tells somebody of something; what was sent to them by a plan still comes. */
export async function stopNoticeMail(db: Database, personId: number): Promise<void> {
  const { digestAt, choices } = await choicesOf(db, personId);
  await transact(db, async (trx) => {
    await saveChoices(
      trx,
      personId,
      digestAt,
      Object.fromEntries(
        NOTICE_KINDS.map((kind) => [
          kind,
          { ...(choices.get(kind) ?? DEFAULT_CHOICES[kind]), mail: 'no' as const },
        ]),
      ),
    );
    await record(trx, {
      actorId: personId,
      action: 'stop notices by mail',
      subject: 'person',
      subjectId: personId,
    });
  });
}

const MOST_DEVICES = 10;

/**
 * Connects a device that takes push messages, for as long as the session lasts in which it is connected. Its address must
 * be a push service's, not one on the internal network.
 *
 * @throws 422 with the field at fault, 409 where it is connected for somebody who is signed in on it
 */
export async function connectDevice(
  db: Database,
  actor: Actor,
  device: z.infer<typeof deviceSchema>,
  standIn: string | null,
  sessionHash: Buffer | null = null,
): Promise<void> {
  const { endpoint, label, keys } = device;
  requireDeviceKeys(keys);
  await requirePushAddress(endpoint, standIn);
  await transact(db, async (trx) => {
    // Of several at once one goes after the other, so that the limit holds.
    await lockPerson(trx, actor.id);
    const own = await devicesOf(trx, [actor.id]);
    if (own.length >= MOST_DEVICES && !own.some((each) => each.endpoint === endpoint))
      throw new Problem(422, `At most ${MOST_DEVICES} devices can be connected. Take one out first.`);
    if (!(await keepDevice(trx, actor.id, sessionHash, { endpoint, label, ...keys })))
      throw new Problem(
        409,
        'This device is connected for somebody else. Sign out there first, or remove it in the browser’s settings.',
      );
    await record(trx, {
      actorId: actor.id,
      action: 'connect device',
      subject: 'person',
      subjectId: actor.id,
    });
  });
}

export async function disconnectDevice(db: Database, actor: Actor, id: number): Promise<void> {
  if (!(await forgetDevice(db, id, actor.id))) throw notFound('device');
}
