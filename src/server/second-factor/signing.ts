import type { CodeSecret } from '../../core/access/secondFactor.ts';
import { readRecovery } from '../../core/access/secondFactor.ts';
import { tellByMail } from '../access/telling.ts';
import { hashToken, newToken, openSession } from '../accounts/opening.ts';
import type { AttemptLimit } from '../accounts/rateLimit.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { lockPerson, personById } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { recoveryHash } from './codes.ts';
import { beginCodes, firstRecovery, takeCode } from './own.ts';
import { checkUsed, notChecked, usingOptions, type PasskeySite } from './passkeys.ts';
import * as store from './store.ts';

/** Codes tried in one step; after that the first step is taken again. */
const MOST_TRIES = 8;

/** What the second step of signing in shows. */
export interface SecondStep {
  personId: number;
  name: string;
  /** Whether there are passkeys to take it with. */
  passkeys: boolean;
  /** Whether there are codes from an app to take it with. */
  codes: boolean;
  /** What to set up, where nothing is and the operator demands it. */
  toSetUp: CodeSecret | null;
}

const over = (): Problem =>
  new Problem(409, 'Signing in took too long, or was tried too often. Begin again with the first step.');

/** The second step a cookie's token stands for; nothing where it is over. */
export async function secondStep(
  db: Database,
  secret: string,
  token: string,
): Promise<SecondStep | undefined> {
  const step = await store.stepOf(db, hashToken(token), 'second');
  if (!step || step.personId === null) return undefined;
  const { personId } = step;
  const [person, standing, codes, passkeys] = await Promise.all([
    personById(db, personId),
    store.standingOf(db, personId),
    store.codesOf(db, personId),
    store.passkeysOf(db, personId),
  ]);
  if (!person || !standing) return undefined;
  return {
    personId,
    name: person.name,
    passkeys: passkeys.length > 0,
    codes: codes !== undefined && codes.confirmedMs !== null,
    toSetUp: standing.second ? null : await beginCodes(db, secret, personId),
  };
}

/**
 * Takes the second step by a code from an app, or by a recovery code, and opens the session. Where nothing was set up yet the
 * code confirms what was set up in this step, and recovery codes are given with it.
 *
 * @throws 409 where the step is over, 422 with the field where the code is not right, 429 after too many
 */
export async function answerByCode(
  db: Database,
  given: { secret: string; token: string; code: string; place: string; agent: string; limit: AttemptLimit },
): Promise<{ session: string; recovery: string[] | null }> {
  const { secret, code, place, agent, limit } = given;
  const hash = hashToken(given.token);
  const step = await store.stepOf(db, hash, 'second');
  if (!step || step.personId === null || !(await store.countTry(db, hash, MOST_TRIES))) throw over();
  const { personId } = step;
  const key = `second step ${personId}`;
  await limit.attempt(key, place);
  const answered = await transact(db, async (trx) => {
    await lockPerson(trx, personId);
    const standing = await store.standingOf(trx, personId);
    if (!standing) throw over();
    // Codes that were begun and not confirmed count only where this step is what sets them up.
    const counts = !standing.second || ((await store.codesOf(trx, personId))?.confirmedMs ?? null) !== null;
    const byApp = counts && (await takeCode(trx, secret, personId, code));
    const recovered = !byApp && (await byRecovery(trx, secret, personId, code));
    if (!byApp && !recovered)
      throw new Problem(422, 'This code is not right.', {
        errors: [
          {
            field: 'code',
            detail: 'This code is not right, or was used already. Write the one the app shows next.',
          },
        ],
      });
    if (!(await store.endStep(trx, hash))) throw over();
    if (!standing.second)
      await record(trx, {
        actorId: personId,
        action: 'change second step',
        subject: 'person',
        subjectId: personId,
      });
    return {
      session: await openSession(trx, personId, agent),
      recovery: standing.second ? null : await firstRecovery(trx, secret, personId),
    };
  });
  await limit.succeeded(key, place);
  return answered;
}

/** Uses a recovery code up, and tells its owner by mail. */
async function byRecovery(db: Database, secret: string, personId: number, code: string): Promise<boolean> {
  if (!/^[0-9A-Z]{10}$/.test(readRecovery(code))) return false;
  if (!(await store.useRecovery(db, personId, recoveryHash(secret, code)))) return false;
  await record(db, {
    actorId: personId,
    action: 'use recovery code',
    subject: 'person',
    subjectId: personId,
  });
  const [left, person] = await Promise.all([store.recoveryLeft(db, personId), personById(db, personId)]);
  if (person?.mail)
    await tellByMail(
      db,
      personId,
      `A recovery code was used to sign in as you; ${left} ${left === 1 ? 'is' : 'are'} left. If this was not you, change your password at once and tell a coordinator.`,
    );
  return true;
}

/** What the browser needs to take the second step with a passkey. */
export async function passkeyForStep(db: Database, site: PasskeySite, token: string) {
  const hash = hashToken(token);
  const step = await store.stepOf(db, hash, 'second');
  if (!step || step.personId === null) throw over();
  const has = await store.passkeysOf(db, step.personId);
  if (has.length === 0) throw new Problem(409, 'There is no passkey. Write a code instead.');
  const options = await usingOptions(site, has);
  await store.keepStepData(db, hash, { challenge: options.challenge });
  return options;
}

/** Begins to sign in with a passkey alone: the step's token for the cookie, and what the browser needs. */
export async function beginByPasskey(db: Database, site: PasskeySite) {
  const token = newToken();
  const options = await usingOptions(site, []);
  await store.insertStep(db, hashToken(token), {
    kind: 'passkey',
    personId: null,
    data: { challenge: options.challenge },
  });
  return { token, options };
}

/**
 * Signs in with a passkey: as the second step, or alone, in which case it must have asked who holds it. Gives the token of the
 * session.
 */
export async function answerByPasskey(
  db: Database,
  site: PasskeySite,
  kind: 'second' | 'passkey',
  given: { token: string; response: Parameters<typeof checkUsed>[3]; agent: string },
): Promise<string> {
  const hash = hashToken(given.token);
  const step = await store.stepOf(db, hash, kind);
  if (typeof step?.data.challenge !== 'string' || !(await store.countTry(db, hash, MOST_TRIES))) throw over();
  const { challenge } = step.data;
  const passkey = await store.passkeyByCredential(db, given.response.id);
  if (!passkey || (kind === 'second' && passkey.personId !== step.personId))
    throw new Problem(422, 'This passkey is not known here. Take another one, or another way to sign in.');
  const counter = await checkUsed(site, challenge, passkey, given.response, kind === 'passkey');
  return transact(db, async (trx) => {
    if (!(await store.endStep(trx, hash))) throw over();
    if (!(await store.notePasskeyUsed(trx, passkey.id, counter))) throw notChecked();
    return openSession(trx, passkey.personId, given.agent);
  });
}
