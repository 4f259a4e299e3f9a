import { z } from 'zod';
import { isBlank } from '../../core/content/document.ts';
import { PRESETS } from '../../core/boards/switches.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { zoneSchema } from '../../core/timing/wallTimeSchema.ts';
import { record } from '../audit/store.ts';
import { insertBoard } from '../boards/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { insertOrganisation, insertPerson, organisation } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { MIN_PASSWORD } from '../../core/access/letter.ts';
import { hashPassword, passwordMatches } from './password.ts';
import type { AttemptLimit } from './rateLimit.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import { comeIn, hashToken, type CameIn, type Coming } from './opening.ts';
import { requireStrongPassword } from './strength.ts';
import {
  deleteSession,
  endSessionsOf,
  demoPeople,
  hasAnybody,
  noteSeen,
  passwordByMail,
  sessionOf,
  setPassword,
  type DemoPerson,
} from './store.ts';

/** Who is signed in. */
export interface Session {
  actor: Actor;
  name: string;
  /** IANA zone in which this person reads times. */
  zone: string;
  /** Whether they look after a group, and so have rolls to see. */
  owns: boolean;
}

/** A session as a request carries it. */
export interface OpenSession extends Session {
  /** SHA-256 of the token in the cookie: what ends with the session is kept under it. */
  hash: Buffer;
  /** What the database's clock said when the request began, in milliseconds since 1970. */
  nowMs: number;
}

/** The session a cookie's token stands for, or nothing where it is unknown, expired, or its person has left. */
export async function readSession(db: Database, token: string): Promise<OpenSession | undefined> {
  const hash = hashToken(token);
  const row = await sessionOf(db, hash);
  if (!row) return undefined;
  if (row.unseen) await noteSeen(db, hash);
  return {
    actor: {
      id: row.personId,
      role: row.role,
      guest: row.guest,
      moderates: new Set(row.moderates),
      mayReach: new Set(row.reach),
    },
    name: row.name,
    zone: row.zone,
    owns: row.owns,
    hash,
    nowMs: row.nowMs,
  };
}

export const signInSchema = z.object({
  mail: z.string().trim().min(1, 'Write your mail address').max(254),
  password: z.string().min(1, 'Write your password').max(1000),
});

/**
 * Signs in by mail address and password and gives the token for the cookie, or the second step that is still to be taken. An
 * unknown address and a wrong password get the same answer, after the same time.
 *
 * @param place where the attempt comes from, for the limit on attempts
 */
export async function signIn(
  db: Database,
  limit: AttemptLimit,
  input: z.infer<typeof signInSchema>,
  place: string,
  coming: Coming = {},
): Promise<CameIn> {
  const mail = normalMail(input.mail);
  await limit.attempt(mail, place);
  const stored = await passwordByMail(db, mail);
  if (!(await passwordMatches(stored?.hash, input.password)) || !stored)
    throw new Problem(401, 'The mail address and the password do not belong together.');
  await limit.succeeded(mail, place);
  return comeIn(db, stored.personId, coming);
}

/** The people the sign-in page offers on the demo; none without demo data. */
export async function demoChoices(db: Database): Promise<DemoPerson[]> {
  return (await organisation(db))?.demo === true ? demoPeople(db) : [];
}

/** Signs in as one of the offered demo people without a password; refused without demo data. */
export async function signInToDemo(db: Database, personId: number, coming: Coming = {}): Promise<CameIn> {
  const offered = await demoChoices(db);
  if (!offered.some((person) => person.id === personId))
    throw new Problem(403, 'Only the people offered on the demo sign in without a password.');
  return comeIn(db, personId, coming);
}

export const signOut = (db: Database, token: string): Promise<void> => deleteSession(db, hashToken(token));

/** Ends every session of somebody, and with them what was connected in them: no device is pushed to any more. */
export const signOutEverywhere = (db: Database, actor: Actor): Promise<void> => endSessionsOf(db, actor.id);

/** Whether nobody is in the database yet, so that the first coordinator may be made. */
export const needsSetup = async (db: Database): Promise<boolean> => !(await hasAnybody(db));

const filled = (max: number, empty: string) =>
  z
    .string()
    .trim()
    .max(max, `At most ${max} characters fit`)
    .refine((text) => !isBlank(text), empty);

/** A password that somebody chooses. */
export const newPasswordSchema = z
  .string()
  .min(
    MIN_PASSWORD,
    `A password has at least ${MIN_PASSWORD} characters; a few words in a row are easy to keep`,
  )
  .max(1000);

export const setupSchema = z.object({
  organisation: filled(120, 'Write the name of the organisation'),
  zone: zoneSchema,
  name: filled(160, 'Write your name'),
  mail: z.email('Write a mail address such as name@example.org'),
  password: newPasswordSchema,
});

/** Makes the organisation, its first coordinator and a board for everybody; only in an empty database. */
export async function setUp(
  db: Database,
  input: z.infer<typeof setupSchema>,
  coming: Coming = {},
): Promise<CameIn> {
  requireStrongPassword(input.password, [input.name, input.mail, input.organisation]);
  const hash = await hashPassword(input.password);
  return transact(db, async (trx) => {
    if (!(await needsSetup(trx))) throw new Problem(409, 'There is a coordinator already. Sign in instead.');
    try {
      await insertOrganisation(trx, { name: input.organisation, zone: input.zone, demo: false, quiet: null });
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      throw new Problem(409, 'Somebody has just set this up. Sign in instead.');
    }
    const personId = await insertPerson(trx, {
      name: input.name,
      mail: input.mail,
      role: 'coordinator',
      stationId: null,
      zone: input.zone,
    });
    await setPassword(trx, personId, hash);
    await insertBoard(trx, {
      name: 'Everybody',
      about: `News for all of ${input.organisation}.`,
      groupId: null,
      ...PRESETS.news.switches,
      ownerId: personId,
    });
    await record(trx, { actorId: personId, action: 'set up', subject: 'organisation', subjectId: 1 });
    return comeIn(trx, personId, coming);
  });
}
