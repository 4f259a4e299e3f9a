import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openSession } from '../../src/server/accounts/opening.ts';
import { hashPassword } from '../../src/server/accounts/password.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { readSession, signIn, type OpenSession } from '../../src/server/accounts/service.ts';
import { setPassword } from '../../src/server/accounts/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { MOST_PASSKEYS } from '../../src/core/access/secondFactor.ts';
import * as own from '../../src/server/second-factor/own.ts';
import { passkeySite } from '../../src/server/second-factor/passkeys.ts';
import {
  answerByPasskey,
  beginByPasskey,
  passkeyForStep,
  secondStep,
} from '../../src/server/second-factor/signing.ts';
import { Authenticator } from './authenticator.ts';
import { addPeople, coordinator, countOf, freshDatabase, refusal, SECRET } from './world.ts';

const PASSWORD = 'four wet hats in a boat';
const ORIGIN = 'https://bell.example';
const site = passkeySite(ORIGIN)!;
const SETTINGS: own.SecondSettings = { secret: SECRET, site, demanded: [] };

let db: Database;
let limit: AttemptLimit;
let people: number[];
let place = 0;
beforeAll(async () => {
  const fresh = await freshDatabase('passkeys');
  db = fresh.db;
  limit = new AttemptLimit(fresh.url);
  people = await addPeople(db, 8);
  const hash = await hashPassword(PASSWORD);
  for (const id of people) await setPassword(db, id, hash);
});
afterAll(() => db.destroy());

const open = async (id: number): Promise<OpenSession> => (await readSession(db, await openSession(db, id)))!;

/** Somebody with a passkey: the device, and their recovery codes where they have had none before. */
async function withPasskey(id: number): Promise<{ device: Authenticator; recovery: string[] | null }> {
  const [device, session] = [new Authenticator(ORIGIN), await open(id)];
  const response = device.make(await own.beginPasskey(db, SETTINGS, session));
  const { recovery } = await own.keepPasskey(db, SETTINGS, session, { name: 'Phone', response });
  return { device, recovery };
}

/** The first step, by mail address and password: the token of the second. */
async function firstStep(id: number): Promise<string> {
  const came = await signIn(
    db,
    limit,
    { mail: `person${id}@test.example`, password: PASSWORD },
    `10.7.0.${++place}`,
    { demanded: [] },
  );
  if (!('step' in came)) throw new Error('No second step was asked for.');
  return came.step;
}

type Response = ReturnType<Authenticator['use']>;
const second = (token: string, response: Response) =>
  answerByPasskey(db, site, 'second', { token, response, agent: 'test' });
const alone = (token: string, response: Response) =>
  answerByPasskey(db, site, 'passkey', { token, response, agent: 'test' });

describe('a passkey that is made', () => {
  it('answers what was asked, at this address, once, in the session it was begun in; recovery codes come with the first', async () => {
    const id = people[0]!;
    const [session, device] = [await open(id), new Authenticator(ORIGIN)];
    const keep = (response: ReturnType<Authenticator['make']>, of = session) =>
      own.keepPasskey(db, SETTINGS, of, { name: 'Phone', response });
    const options = await own.beginPasskey(db, SETTINGS, session);
    const other = await own.beginPasskey(db, SETTINGS, await open(id));
    expect((await refusal(keep(device.make(other)))).status).toBe(422);
    expect((await refusal(keep(device.make(options, { origin: 'https://bell.example.evil' })))).status).toBe(
      422,
    );
    expect((await keep(device.make(options))).recovery).toHaveLength(10);
    // What was asked is asked once.
    expect((await refusal(keep(device.make(options)))).status).toBe(409);
    // The same passkey is not kept twice, by whomever; the next of somebody brings no new codes.
    const again = await own.beginPasskey(db, SETTINGS, session);
    expect(again.excludeCredentials?.map(({ id: credential }) => credential)).toEqual([device.credential]);
    expect((await refusal(keep(device.make(again)))).message).toBe('This passkey is kept already.');
    const theirs = await open(people[1]!);
    const begun = await own.beginPasskey(db, SETTINGS, theirs);
    expect((await refusal(keep(device.make(begun), theirs))).status).toBe(409);
    expect((await withPasskey(id)).recovery).toBeNull();
    expect(await countOf(db, 'FROM passkeys WHERE person_id = ?', [id])).toBe(2);
  });

  it('is one of so many', async () => {
    const id = people[2]!;
    for (let i = 0; i < MOST_PASSKEYS; i++) await withPasskey(id);
    const { status, message } = await refusal(own.beginPasskey(db, SETTINGS, await open(id)));
    expect([status, message]).toEqual([
      409,
      `There are ${MOST_PASSKEYS} passkeys already. Take one away first.`,
    ]);
  });
});

describe('signing in with a passkey alone', () => {
  it('takes one that looked at who holds it, signed what was asked, here, and each answer once', async () => {
    const id = people[3]!;
    const { device } = await withPasskey(id);
    const { token, options } = await beginByPasskey(db, site);
    const elsewhere = await beginByPasskey(db, site);
    expect((await refusal(alone(token, device.use(options, { verified: false })))).status).toBe(422);
    expect((await refusal(alone(token, device.use(options, { origin: 'https://bell.test' })))).status).toBe(
      422,
    );
    expect((await refusal(alone(token, device.use(elsewhere.options)))).status).toBe(422);
    expect((await refusal(alone(token, new Authenticator(ORIGIN).use(options)))).message).toMatch(
      /not known here/,
    );
    const given = device.use(options);
    expect(await readSession(db, await alone(token, given))).toMatchObject({ actor: { id } });
    expect((await refusal(alone(token, given))).status).toBe(409);
    // A step of the one kind is none of the other.
    const step = await firstStep(id);
    expect((await refusal(alone(step, device.use(await passkeyForStep(db, site, step))))).status).toBe(409);
  });

  it('refuses a copy, which counts behind the passkey; of two that come at once with one count only one is let in', async () => {
    const { device } = await withPasskey(people[4]!);
    const at = async (counter: number) => {
      const { token, options } = await beginByPasskey(db, site);
      return alone(token, device.use(options, { counter }));
    };
    await at(7);
    expect((await refusal(at(7))).status).toBe(422);
    expect((await refusal(at(3))).status).toBe(422);
    const both = await Promise.allSettled([at(8), at(8)]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    await at(9);
  });

  it('lets nobody in who has left, or whose passkey was taken away', async () => {
    const [gone, without] = [people[5]!, people[6]!];
    const [theirs, mine] = [await withPasskey(gone), await withPasskey(without)];
    await changeStanding(db, coordinator, gone, true);
    const { actor } = await open(without);
    const [line] = (await own.secondFactor(db, actor, [])).passkeys;
    await own.removePasskey(db, SETTINGS, actor, line!.id);
    for (const { device } of [theirs, mine]) {
      const { token, options } = await beginByPasskey(db, site);
      expect((await refusal(alone(token, device.use(options)))).message).toMatch(/not known here/);
    }
  });
});

describe('a passkey as the second step', () => {
  it('is one of whoever took the first, need not look at who holds it, and is guessed eight times at most', async () => {
    const [mine, theirs] = [people[0]!, people[3]!];
    const { device } = await withPasskey(mine);
    const other = await withPasskey(theirs);
    const step = await firstStep(mine);
    expect(await secondStep(db, SECRET, step)).toMatchObject({
      personId: mine,
      passkeys: true,
      codes: false,
    });
    const options = await passkeyForStep(db, site, step);
    expect(options.allowCredentials?.map(({ id }) => id)).toContain(device.credential);
    expect((await refusal(second(step, other.device.use(options)))).message).toMatch(/not known here/);
    const session = await second(step, device.use(options, { verified: false }));
    expect(await readSession(db, session)).toMatchObject({ actor: { id: mine } });
    const tried = await firstStep(mine);
    const asked = await passkeyForStep(db, site, tried);
    for (let i = 0; i < 8; i++)
      expect((await refusal(second(tried, device.use(asked, { origin: 'https://x.example' })))).status).toBe(
        422,
      );
    expect((await refusal(second(tried, device.use(asked)))).status).toBe(409);
  });
});
