import type { CodeSecret, SecondFactor } from '../../core/access/secondFactor.ts';
import { MOST_PASSKEYS, shownRecovery } from '../../core/access/secondFactor.ts';
import type { Role } from '../../core/audience/expression.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { tellByMail } from '../access/telling.ts';
import { hashToken } from '../accounts/opening.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import type { OpenSession } from '../accounts/service.ts';
import { record } from '../audit/store.ts';
import { databaseNow, isDuplicate, transact, type Database } from '../database/connection.ts';
import { lockPerson, organisation, personById } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { seal, unseal } from '../sealing.ts';
import { newCodeSecret, newRecoveryCodes, pictureOf, recoveryHash, stepOfCode } from './codes.ts';
import { checkMade, makingOptions, type PasskeySite } from './passkeys.ts';
import * as store from './store.ts';

/** What changing one's second step depends on. */
export interface SecondSettings {
  /** The installation's secret: seals what is kept. */
  secret: string;
  site: PasskeySite | null;
  /** The roles of which the operator demands a second step. */
  demanded: readonly Role[];
}

/** What somebody takes as a second step. */
export async function secondFactor(
  db: Database,
  actor: Actor,
  demanded: readonly Role[],
): Promise<SecondFactor> {
  const [passkeys, codes, recoveryLeft] = await Promise.all([
    store.passkeyLines(db, actor.id),
    store.codesOf(db, actor.id),
    store.recoveryLeft(db, actor.id),
  ]);
  return {
    passkeys,
    codesSinceMs: codes?.confirmedMs ?? null,
    recoveryLeft,
    demanded: demanded.includes(actor.role),
  };
}

const wrongCode = (): Problem =>
  new Problem(422, 'This code is not the one of now.', {
    errors: [
      {
        field: 'code',
        detail: 'This code is not the one of now, or was used already. Write the one the app shows next.',
      },
    ],
  });

/**
 * Begins with codes from an app: a secret that counts once a code of it was given back. One that was begun minutes ago and not
 * confirmed is given again.
 */
export async function beginCodes(db: Database, secret: string, personId: number): Promise<CodeSecret> {
  const [before, person, home] = await Promise.all([
    store.codesOf(db, personId),
    personById(db, personId),
    organisation(db),
  ]);
  if (!person) throw notFound('person');
  const on = (): Problem =>
    new Problem(409, 'Codes are asked for already. Take that away first to begin with another app.');
  if (before && before.confirmedMs !== null) throw on();
  const again = before?.fresh === true ? before : undefined;
  const code = again ? unseal(secret, again.sealed) : newCodeSecret();
  if (!again && !(await store.keepCodeSecret(db, personId, seal(secret, code)))) throw on();
  return {
    secret: code,
    picture: await pictureOf(code, home?.name ?? 'Clear Bell', person.mail ?? person.name),
  };
}

/** Takes a code of somebody: false where it is not the one of now, or was taken before. */
export async function takeCode(
  db: Database,
  secret: string,
  personId: number,
  typed: string,
): Promise<boolean> {
  const codes = await store.codesOf(db, personId);
  if (!codes) return false;
  const step = stepOfCode(unseal(secret, codes.sealed), typed, await databaseNow(db));
  return step !== null && store.takeStep(db, personId, step);
}

/** Gives recovery codes where somebody has none yet; they are shown this once. */
export async function firstRecovery(
  db: Database,
  secret: string,
  personId: number,
): Promise<string[] | null> {
  return (await store.recoveryLeft(db, personId)) > 0 ? null : writeRecovery(db, secret, personId);
}

async function writeRecovery(db: Database, secret: string, personId: number): Promise<string[]> {
  const codes = newRecoveryCodes();
  await store.replaceRecovery(
    db,
    personId,
    codes.map((code) => recoveryHash(secret, code)),
  );
  return codes.map(shownRecovery);
}

/** Notes a change to somebody's second step, and tells them by mail. */
async function noteChange(db: Database, actorId: number, personId: number, words: string): Promise<void> {
  await record(db, { actorId, action: 'change second step', subject: 'person', subjectId: personId });
  const person = await personById(db, personId);
  if (person?.mail)
    await tellByMail(
      db,
      personId,
      `${words} If this was not you, change your password at once and tell a coordinator.`,
    );
}

/** Confirms codes from an app by the first of them. Gives recovery codes where there are none yet. */
export async function confirmCodes(
  db: Database,
  { secret }: SecondSettings,
  actor: Actor,
  code: string,
): Promise<{ recovery: string[] | null }> {
  return transact(db, async (trx) => {
    await lockPerson(trx, actor.id);
    const codes = await store.codesOf(trx, actor.id);
    if (!codes || codes.confirmedMs !== null)
      throw new Problem(409, 'There is nothing to confirm. Begin again.');
    if (!(await takeCode(trx, secret, actor.id, code))) throw wrongCode();
    await noteChange(trx, actor.id, actor.id, 'From now on signing in as you asks for a code from your app.');
    return { recovery: await firstRecovery(trx, secret, actor.id) };
  });
}

/** Takes something of a second step away; refused where it is the last and the operator demands one. */
async function takeAway(
  db: Database,
  { demanded }: SecondSettings,
  actor: Actor,
  words: string,
  remove: (trx: Database) => Promise<boolean>,
): Promise<void> {
  await transact(db, async (trx) => {
    await lockPerson(trx, actor.id);
    if (!(await remove(trx))) throw notFound('second step');
    const standing = await store.standingOf(trx, actor.id);
    if (standing && !standing.second) {
      if (demanded.includes(standing.role))
        throw new Problem(
          409,
          'A second step is asked of everybody in your role. Set another one up before you take this away.',
        );
      await store.replaceRecovery(trx, actor.id, []);
    }
    await noteChange(trx, actor.id, actor.id, words);
  });
}

export const removeCodes = (db: Database, settings: SecondSettings, actor: Actor): Promise<void> =>
  takeAway(
    db,
    settings,
    actor,
    'Signing in as you no longer asks for a code from an app.',
    async (trx) => (await store.deleteCodes(trx, actor.id)) === 1,
  );

export const removePasskey = (
  db: Database,
  settings: SecondSettings,
  actor: Actor,
  id: number,
): Promise<void> =>
  takeAway(db, settings, actor, 'A passkey of yours was taken away.', (trx) =>
    store.deletePasskey(trx, actor.id, id),
  );

/** Under what the making of a passkey is kept: one at a time in a session. */
const makingKey = (session: OpenSession): Buffer => hashToken(`add passkey ${session.hash.toString('hex')}`);

function siteOf({ site }: SecondSettings): PasskeySite {
  if (site) return site;
  throw new Problem(
    409,
    'Passkeys need this application to have a name and https. Ask whoever runs it; codes from an app work without.',
  );
}

/** Begins to make a passkey: what the browser needs for it. */
export async function beginPasskey(db: Database, settings: SecondSettings, session: OpenSession) {
  const site = siteOf(settings);
  const { id } = session.actor;
  const [person, home, has] = await Promise.all([
    personById(db, id),
    organisation(db),
    store.passkeysOf(db, id),
  ]);
  if (!person) throw notFound('person');
  if (has.length >= MOST_PASSKEYS)
    throw new Problem(409, `There are ${MOST_PASSKEYS} passkeys already. Take one away first.`);
  const options = await makingOptions(
    site,
    { organisation: home?.name ?? 'Clear Bell', personId: id, mail: person.mail ?? '', name: person.name },
    has,
  );
  await store.insertStep(db, makingKey(session), {
    kind: 'add passkey',
    personId: id,
    data: { challenge: options.challenge },
  });
  return options;
}

/** Keeps a passkey that was just made. Gives recovery codes where there are none yet. */
export async function keepPasskey(
  db: Database,
  settings: SecondSettings,
  session: OpenSession,
  given: { name: string; response: Parameters<typeof checkMade>[2] },
): Promise<{ recovery: string[] | null }> {
  const site = siteOf(settings);
  const { id } = session.actor;
  const step = await store.stepOf(db, makingKey(session), 'add passkey');
  if (!step || step.personId !== id)
    throw new Problem(409, 'It took longer than ten minutes, or was begun elsewhere. Begin again.');
  const made = await checkMade(site, String(step.data.challenge), given.response);
  try {
    return await transact(db, async (trx) => {
      await lockPerson(trx, id);
      await store.endStep(trx, makingKey(session));
      await store.insertPasskey(trx, { ...made, personId: id, name: given.name });
      await noteChange(trx, id, id, `A passkey was added to what signs you in: ${given.name}.`);
      return { recovery: await firstRecovery(trx, settings.secret, id) };
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw new Problem(409, 'This passkey is kept already.');
  }
}

/** New recovery codes in the place of those before. */
export async function renewRecovery(
  db: Database,
  { secret }: SecondSettings,
  actor: Actor,
): Promise<{ recovery: string[] }> {
  return transact(db, async (trx) => {
    await lockPerson(trx, actor.id);
    if (!(await store.standingOf(trx, actor.id))?.second)
      throw new Problem(409, 'Recovery codes come with a second step. Set one up first.');
    await noteChange(trx, actor.id, actor.id, 'You have new recovery codes; those before no longer count.');
    return { recovery: await writeRecovery(trx, secret, actor.id) };
  });
}

/** Takes away all that somebody else takes as a second step, who has lost it; for coordinators. */
export async function resetSecondFactor(db: Database, actor: Actor, personId: number): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    await lockPerson(trx, personId);
    const standing = await store.standingOf(trx, personId);
    if (!standing) throw notFound('person');
    if (!standing.second) throw new Problem(409, 'There is no second step to take away.');
    await store.deleteSecondFactor(trx, personId);
    await noteChange(
      trx,
      actor.id,
      personId,
      'A coordinator has taken away the second step you signed in with. Set a new one up in your settings.',
    );
  });
}
