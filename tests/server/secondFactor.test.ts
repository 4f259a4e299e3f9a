import { Secret, TOTP } from 'otpauth';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { insertLetter } from '../../src/server/access/store.ts';
import { answerLetter, openLetter } from '../../src/server/access/service.ts';
import { accessToken } from '../../src/server/access/link.ts';
import { hashToken, openSession, type CameIn } from '../../src/server/accounts/opening.ts';
import { hashPassword } from '../../src/server/accounts/password.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { readSession, signIn, type OpenSession } from '../../src/server/accounts/service.ts';
import { setPassword } from '../../src/server/accounts/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { stepOfCode } from '../../src/server/second-factor/codes.ts';
import * as own from '../../src/server/second-factor/own.ts';
import { passkeySite } from '../../src/server/second-factor/passkeys.ts';
import { answerByCode, passkeyForStep, secondStep } from '../../src/server/second-factor/signing.ts';
import { addPeople, coordinator, countOf, freshDatabase, SECRET, sessionIn } from './world.ts';

const PASSWORD = 'four wet hats in a boat';
const SETTINGS: own.SecondSettings = {
  secret: SECRET,
  site: passkeySite('https://bell.example'),
  demanded: [],
};

let db: Database;
let limit: AttemptLimit;
let people: number[];
let place = 0;

beforeAll(async () => {
  const fresh = await freshDatabase('second_factor');
  db = fresh.db;
  limit = new AttemptLimit(fresh.url);
  people = await addPeople(db, 9);
  const hash = await hashPassword(PASSWORD);
  for (const id of people) await setPassword(db, id, hash);
});
afterAll(() => db.destroy());

/** The code an app shows, so many steps of 30 seconds from now. */
const codeOf = (secret: string, steps = 0): string =>
  new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + steps * 30_000 });

/** The code of the step before now, where that stays the one before now while it is looked at. */
async function codeBefore(secret: string): Promise<string> {
  const left = 30_000 - (Date.now() % 30_000);
  if (left < 4_000) await new Promise((resolve) => setTimeout(resolve, left + 50));
  return codeOf(secret, -1);
}

const come = (id: number, demanded: own.SecondSettings['demanded'] = []): Promise<CameIn> =>
  signIn(db, limit, { mail: `person${id}@test.example`, password: PASSWORD }, `10.9.0.${++place}`, {
    demanded,
  });

const stepOf = (came: CameIn): string => {
  if ('step' in came) return came.step;
  throw new Error('No second step was asked for.');
};

const answer = (token: string, code: string) =>
  answerByCode(db, { secret: SECRET, token, code, place: `10.8.0.${++place}`, agent: '', limit });

async function open(id: number): Promise<OpenSession> {
  return (await readSession(db, await openSession(db, id)))!;
}

/** Sets codes up, and gives the secret and the recovery codes. The code of the step before now is used up by it. */
async function withCodes(id: number): Promise<{ secret: string; recovery: string[] }> {
  const { actor } = await open(id);
  const { secret } = await own.beginCodes(db, SECRET, id);
  const { recovery } = await own.confirmCodes(db, SETTINGS, actor, await codeBefore(secret));
  return { secret, recovery: recovery ?? [] };
}

describe('codes from an app', () => {
  it('are those of RFC 6238, of the step before and after too, and of no other', () => {
    const secret = Secret.fromUTF8('12345678901234567890').base32;
    // Appendix B, the last six of its eight digits.
    expect(stepOfCode(secret, '287 082', 59_000)).toBe(1);
    expect(stepOfCode(secret, '081804', 1_111_111_109_000)).toBe(0x23523ec);
    expect(stepOfCode(secret, '287082', 89_000)).toBe(1);
    expect(stepOfCode(secret, '287082', 125_000)).toBeNull();
    expect(stepOfCode(secret, '28708', 59_000)).toBeNull();
  });

  it('are asked for once they were confirmed, and each is taken once however many press at once', async () => {
    const id = people[0]!;
    const { actor } = await open(id);
    const { secret } = await own.beginCodes(db, SECRET, id);
    // Begun and not confirmed counts for nothing.
    sessionIn(await come(id));
    await expect(own.confirmCodes(db, SETTINGS, actor, '000000')).rejects.toMatchObject({
      errors: [{ field: 'code' }],
    });
    const { recovery } = await own.confirmCodes(db, SETTINGS, actor, await codeBefore(secret));
    expect(new Set(recovery)).toHaveProperty('size', 10);
    const code = codeOf(secret);
    const steps = await Promise.all(Array.from({ length: 5 }, async () => stepOf(await come(id))));
    expect(await readSession(db, steps[0]!)).toBeUndefined();
    const answered = await Promise.allSettled(steps.map((step) => answer(step, code)));
    const [good, ...more] = answered.filter((each) => each.status === 'fulfilled');
    expect(more).toEqual([]);
    expect(await readSession(db, good!.value.session)).toMatchObject({ actor: { id } });
    // What was kept of the secret cannot be read from the database.
    const [row] = await rows<{ sealed: Buffer }>(db, 'SELECT sealed FROM code_secrets WHERE person_id = ?', [
      id,
    ]);
    expect(row!.sealed.toString('latin1')).not.toContain(secret);
  });

  it('are guessed eight times a sign-in at most, and another one’s step takes no code of one’s own', async () => {
    const [a, b] = [people[1]!, people[2]!];
    const mine = await withCodes(a);
    await withCodes(b);
    const theirs = stepOf(await come(b));
    await expect(answer(theirs, codeOf(mine.secret))).rejects.toMatchObject({ status: 422 });
    const step = stepOf(await come(a));
    for (let i = 0; i < 8; i++) await expect(answer(step, '000000')).rejects.toMatchObject({ status: 422 });
    await expect(answer(step, codeOf(mine.secret))).rejects.toMatchObject({ status: 409 });
    expect(await secondStep(db, SECRET, 'made up')).toBeUndefined();
  });

  it('are asked for after a link by mail too, and whoever has left comes in no more', async () => {
    const id = people[3]!;
    const { secret } = await withCodes(id);
    await insertLetter(db, { personId: id, kind: 'sign-in', words: '', hours: 1 });
    const [letter] = await rows<{ id: number }>(
      db,
      'SELECT MAX(id) AS id FROM access_letters WHERE person_id = ?',
      [id],
    );
    const opened = await openLetter(db, SECRET, accessToken(SECRET, letter!.id));
    if (opened.state !== 'good') throw new Error(opened.state);
    const step = stepOf(await answerLetter(db, opened.letter, { password: null, zone: null }));
    await changeStanding(db, coordinator, id, true);
    await expect(answer(step, codeOf(secret))).rejects.toMatchObject({ status: 409 });
  });
});

it('codes that were begun and not confirmed sign nobody in who has a passkey', async () => {
  const id = people[8]!;
  await db('passkeys').insert({
    person_id: id,
    credential: 'a key',
    public_key: Buffer.from('x'),
    counter: 0,
    name: 'Key',
  });
  const { secret } = await own.beginCodes(db, SECRET, id);
  await expect(answer(stepOf(await come(id)), codeOf(secret))).rejects.toMatchObject({ status: 422 });
});

describe('a recovery code', () => {
  it('signs in once, as it is read from paper, and a mail tells of it', async () => {
    const id = people[4]!;
    const { recovery } = await withCodes(id);
    const paper = recovery[0]!.toLowerCase().replace('-', ' ').replace(/0/g, 'o').replace(/1/g, 'l');
    const { session } = await answer(stepOf(await come(id)), paper);
    expect(await readSession(db, session)).toBeDefined();
    expect(
      await countOf(db, "FROM access_letters WHERE person_id = ? AND words LIKE '%; 9 are left%'", [id]),
    ).toBe(1);
    await expect(answer(stepOf(await come(id)), paper)).rejects.toMatchObject({ status: 422 });
    // New ones take the place of all before.
    const { actor } = await open(id);
    const anew = await own.renewRecovery(db, SETTINGS, actor);
    await expect(answer(stepOf(await come(id)), recovery[1]!)).rejects.toMatchObject({ status: 422 });
    await answer(stepOf(await come(id)), anew.recovery[1]!);
    expect(await own.secondFactor(db, actor, [])).toMatchObject({ recoveryLeft: 9, passkeys: [] });
  });
});

describe('where the operator demands it of a role', () => {
  it('whoever has none sets one up as they sign in, and cannot take the last away', async () => {
    const id = people[5]!;
    const step = stepOf(await come(id, ['member']));
    const { toSetUp } = (await secondStep(db, SECRET, step))!;
    // Looked at again, as after a wrong code, it is the same.
    await expect(answer(step, '000000')).rejects.toMatchObject({ status: 422 });
    expect((await secondStep(db, SECRET, step))!.toSetUp!.secret).toBe(toSetUp!.secret);
    const { session, recovery } = await answer(step, codeOf(toSetUp!.secret));
    expect(recovery).toHaveLength(10);
    const { actor } = (await readSession(db, session))!;
    await expect(own.removeCodes(db, { ...SETTINGS, demanded: ['member'] }, actor)).rejects.toMatchObject({
      status: 409,
    });
    expect(await own.secondFactor(db, actor, ['member'])).toMatchObject({ demanded: true, recoveryLeft: 10 });
    await own.removeCodes(db, SETTINGS, actor);
    expect(await own.secondFactor(db, actor, [])).toMatchObject({ codesSinceMs: null, recoveryLeft: 0 });
    sessionIn(await come(id));
  });
});

describe('somebody who has lost it', () => {
  it('is let in without by a coordinator, which is told and kept', async () => {
    const id = people[6]!;
    await withCodes(id);
    const { actor } = await open(id);
    await expect(own.resetSecondFactor(db, actor, people[4]!)).rejects.toMatchObject({ status: 403 });
    await own.resetSecondFactor(db, coordinator, id);
    sessionIn(await come(id));
    await expect(own.resetSecondFactor(db, coordinator, id)).rejects.toMatchObject({ status: 409 });
    expect(
      await countOf(
        db,
        "FROM audit WHERE action = 'change second step' AND actor_id = ? AND subject_id = ?",
        [coordinator.id, id],
      ),
    ).toBe(1);
  });
});

describe('a passkey', () => {
  it('needs a name and https, and the session it was begun in', async () => {
    expect(passkeySite('http://bell.example')).toBeNull();
    expect(passkeySite('https://10.0.0.1')).toBeNull();
    expect(passkeySite('http://localhost:4400')).toEqual({
      id: 'localhost',
      origin: 'http://localhost:4400',
    });
    const id = people[7]!;
    const [one, other] = [await open(id), await open(id)];
    await own.beginPasskey(db, SETTINGS, one);
    const given = { name: 'Phone', response: { id: 'x' } };
    await expect(own.keepPasskey(db, SETTINGS, other, given)).rejects.toMatchObject({ status: 409 });
    await expect(own.keepPasskey(db, SETTINGS, one, given)).rejects.toMatchObject({ status: 422 });
    await expect(passkeyForStep(db, SETTINGS.site!, 'made up')).rejects.toMatchObject({ status: 409 });
    // A step of another kind is no way in.
    expect(await secondStep(db, SECRET, hashToken('x').toString('hex'))).toBeUndefined();
  });
});
