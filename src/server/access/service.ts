import { requireLookingAfterPeople } from '../accounts/require.ts';
import { LASTS_HOURS, type Access, type Invited, type LetterKind } from '../../core/access/letter.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { Invitation } from '../../core/access/schemas.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { hashPassword, passwordMatches } from '../accounts/password.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import { comeIn, type CameIn, type Coming } from '../accounts/opening.ts';
import type { OpenSession } from '../accounts/service.ts';
import { endOtherSessions, endSessionsOf, passwordOf, setPassword } from '../accounts/store.ts';
import { requireStrongPassword } from '../accounts/strength.ts';
import { record } from '../audit/store.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { idList } from '../notices/store.ts';
import { organisation, personById, setZone } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { readAccessToken } from './link.ts';
import { tellByMail } from './telling.ts';
import {
  accessOf,
  askedLately,
  countInvitable,
  insertInvitations,
  insertLetter,
  letterById,
  personByMail,
  useLetter,
  withdrawLetters,
  type Letter,
} from './store.ts';

/** A condition over `people p` for whom an invitation is meant. */
async function invitedBy(db: Database, to: Invitation['to']): Promise<Sql> {
  switch (to.kind) {
    case 'everybody':
      return { sql: 'TRUE', bindings: [] };
    case 'people':
      return idList(to.ids);
    case 'group': {
      const now = await audienceContext(db);
      const group = now.groups.get(to.id);
      if (!group) throw notFound('group');
      if (!isReadable({ kind: 'group', id: to.id }, now))
        throw new Problem(
          409,
          `Who is in ${group.name} is not known: its rule cannot be read. Write it anew.`,
        );
      return isIn({ kind: 'group', id: to.id }, now);
    }
  }
}

/** How many an invitation would reach, and who it could not. */
export async function countInvited(db: Database, actor: Actor, to: Invitation['to']): Promise<Invited> {
  requireLookingAfterPeople(actor);
  const { invitable, ...others } = await countInvitable(db, await invitedBy(db, to));
  return { invited: invitable, ...others };
}

/**
 * Writes an invitation to each of those meant who has not signed in yet. What they were sent before can no longer be
 * used: the latest link is the one that holds.
 */
export async function invite(db: Database, actor: Actor, { to, words }: Invitation): Promise<Invited> {
  requireLookingAfterPeople(actor);
  const who = await invitedBy(db, to);
  return transact(db, async (trx) => {
    const { withoutAddress, inAlready } = await countInvitable(trx, who);
    await withdrawLetters(trx, 'invitation', who);
    const invited = await insertInvitations(trx, who, {
      words,
      madeBy: actor.id,
      hours: LASTS_HOURS.invitation,
    });
    await record(trx, {
      actorId: actor.id,
      action: 'invite',
      subject: 'organisation',
      subjectId: 1,
      detail: { to, invited },
    });
    return { invited, withoutAddress, inAlready };
  });
}

/** Withdraws somebody's invitation: its link no longer lets anybody in. */
export async function withdrawInvitation(db: Database, actor: Actor, personId: number): Promise<void> {
  requireLookingAfterPeople(actor);
  if (!(await personById(db, personId))) throw notFound('person');
  await transact(db, async (trx) => {
    if ((await withdrawLetters(trx, 'invitation', idList([personId]))) === 0)
      throw new Problem(409, 'There is no invitation that could still be used.');
    await record(trx, {
      actorId: actor.id,
      action: 'withdraw invitation',
      subject: 'person',
      subjectId: personId,
    });
  });
}

/** Withdraws the invitations of several; gives how many could still be used. */
export async function withdrawInvitations(
  db: Database,
  actor: Actor,
  personIds: readonly number[],
): Promise<number> {
  requireLookingAfterPeople(actor);
  return transact(db, async (trx) => {
    const withdrawn = await withdrawLetters(trx, 'invitation', idList(personIds));
    await record(trx, {
      actorId: actor.id,
      action: 'withdraw invitations',
      subject: 'organisation',
      subjectId: 1,
      detail: { people: personIds.length, withdrawn },
    });
    return withdrawn;
  });
}

/** Where some people stand with getting in; for coordinators. */
export async function accessOfPeople(
  db: Database,
  actor: Actor,
  personIds: readonly number[],
): Promise<Record<number, Access>> {
  requireLookingAfterPeople(actor);
  return Object.fromEntries(await accessOf(db, personIds));
}

/** Most letters one person can ask for in a quarter of an hour. */
const MOST_ASKED = 3;

/**
 * Sends whoever has this address a link to choose a new password, or one to sign in with once. An address nobody has, and
 * one that asks too often, get the same answer in the same words: none. An attempt is counted for its place and address.
 */
export async function askForLetter(
  db: Database,
  limit: AttemptLimit,
  kind: 'reset' | 'sign-in',
  mail: string,
  place: string,
): Promise<void> {
  const address = normalMail(mail);
  await limit.attempt(address, place);
  const personId = await personByMail(db, address);
  if (personId === undefined || (await askedLately(db, personId, 15)) >= MOST_ASKED) return;
  await insertLetter(db, { personId, kind, words: '', hours: LASTS_HOURS[kind] });
}

export type OpenedLetter =
  | { state: 'altered' | 'expired' | 'used' | 'withdrawn' | 'gone' }
  | { state: 'good'; letter: Letter & { kind: Exclude<LetterKind, 'told'> } };

/** Opens a letter's link without using it: programs that look at mail open every link. */
export async function openLetter(db: Database, secret: string, token: string): Promise<OpenedLetter> {
  const id = readAccessToken(secret, token);
  if (id === null) return { state: 'altered' };
  const [letter, nowMs] = await Promise.all([letterById(db, id), databaseNow(db)]);
  if (!letter || letter.left || letter.kind === 'told') return { state: 'gone' };
  const { kind } = letter;
  if (letter.usedMs !== null) return { state: 'used' };
  if (letter.withdrawnMs !== null) return { state: 'withdrawn' };
  if (letter.expiresMs <= nowMs) return { state: 'expired' };
  return { state: 'good', letter: { ...letter, kind } };
}

const usedUp = (): Problem =>
  new Problem(409, 'This link has just been used, or was withdrawn. Ask for a new one on the sign-in page.');

/**
 * Does what a good letter is for: sets the password, where one is given, and signs in, up to a second step where there is one.
 * After a reset every other session is over, and a mail tells of it.
 *
 * @param given.password null to come in without one
 * @param given.zone the IANA zone of the browser, where its reader wants to read by it
 */
export async function answerLetter(
  db: Database,
  letter: Letter,
  given: { password: string | null; zone: string | null } & Coming,
): Promise<CameIn> {
  const home = await organisation(db);
  if (given.password !== null)
    requireStrongPassword(given.password, [letter.name, letter.mail ?? '', home?.name ?? '']);
  else if (letter.kind === 'reset')
    throw new Problem(422, 'Write a new password.', {
      errors: [{ field: 'password', detail: 'Write a new password.' }],
    });
  const hash = given.password === null ? null : await hashPassword(given.password);
  return transact(db, async (trx) => {
    if (!(await useLetter(trx, letter.id))) throw usedUp();
    if (hash !== null) await setPassword(trx, letter.personId, hash);
    if (given.zone !== null) await setZone(trx, letter.personId, given.zone);
    if (letter.kind === 'reset') {
      await endSessionsOf(trx, letter.personId);
      await tellByMail(
        trx,
        letter.personId,
        'Your password was changed by a link from your mail, and everything that was signed in is signed out. If this was not you, set another one at once and tell a coordinator.',
      );
    }
    await record(trx, {
      actorId: letter.personId,
      action: {
        invitation: 'take up invitation',
        reset: 'reset password',
        'sign-in': 'sign in by mail',
        told: '',
      }[letter.kind],
      subject: 'person',
      subjectId: letter.personId,
    });
    return comeIn(trx, letter.personId, given);
  });
}

/** What somebody signs in with. */
export async function waysIn(db: Database, actor: Actor): Promise<{ password: boolean; mail: string }> {
  const [hash, person] = await Promise.all([passwordOf(db, actor.id), personById(db, actor.id)]);
  return { password: hash !== undefined, mail: person?.mail ?? '' };
}

/** Changes one's own password and ends every session but the one it is changed in. */
export async function changePassword(
  db: Database,
  limit: AttemptLimit,
  session: OpenSession,
  given: { old: string; password: string },
  place: string,
): Promise<void> {
  const { actor } = session;
  const person = await personById(db, actor.id);
  if (!person) throw notFound('person');
  const key = normalMail(person.mail ?? `person ${person.id}`);
  await limit.attempt(key, place);
  const stored = await passwordOf(db, actor.id);
  if (stored !== undefined && !(await passwordMatches(stored, given.old)))
    throw new Problem(422, 'The password in use is another one.', {
      errors: [
        { field: 'old', detail: 'The password in use is another one. Write it as you sign in with it.' },
      ],
    });
  await limit.succeeded(key, place);
  requireStrongPassword(given.password, [person.name, person.mail ?? '']);
  const hash = await hashPassword(given.password);
  await transact(db, async (trx) => {
    await setPassword(trx, actor.id, hash);
    await endOtherSessions(trx, actor.id, session.hash);
    if (person.mail !== null)
      await tellByMail(
        trx,
        actor.id,
        'Your password was changed in your settings, and everything else that was signed in is signed out. If this was not you, ask for a new one on the sign-in page at once and tell a coordinator.',
      );
    await record(trx, {
      actorId: actor.id,
      action: 'change password',
      subject: 'person',
      subjectId: actor.id,
    });
  });
}
