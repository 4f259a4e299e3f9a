import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/house/ports.ts';
import { providerSchema, type Provider } from '../../src/core/access/provider.ts';
import { readSession } from '../../src/server/accounts/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { addIdentity } from '../../src/server/identities/service.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import type { SignOnSettings } from '../../src/server/sign-on/client.ts';
import {
  addProvider,
  alterProvider,
  forgetSignOn,
  listProviders,
  tryProvider,
} from '../../src/server/sign-on/service.ts';
import { beginSignOn, finishSignOn, whereToSignOut } from '../../src/server/sign-on/signing.ts';
import { signedInAt } from '../../src/server/sign-on/store.ts';
import { startSignInStandIn, type SignInStandIn } from '../../src/standins/sign-in/server.ts';
import { addPeople, coordinator, countOf, freshDatabase, SECRET } from './world.ts';

const CLIENT_SECRET = 'only the stand-in knows';
const HOME = 'http://bell.test';

let db: Database;
let standIn: SignInStandIn;
let people: number[];
let settings: SignOnSettings;
let provider: Provider;
let id: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('sign_on'));
  people = await addPeople(db, 9);
  const port = await freePort();
  standIn = await startSignInStandIn({
    port,
    clientId: 'clear-bell',
    clientSecret: CLIENT_SECRET,
    back: `${HOME}/sign-in/back`,
    out: `${HOME}/sign-in`,
  });
  const issuer = `http://localhost:${port}`;
  settings = { secret: SECRET, url: HOME, inside: [issuer] };
  provider = providerSchema.parse({
    name: 'The house',
    issuer,
    clientId: 'clear-bell',
    byMail: true,
    byIdentity: { system: 'house', claim: 'preferred_username' },
  });
  ({ id } = await addProvider(db, coordinator, settings, { provider, secret: CLIENT_SECRET }));
});
afterAll(async () => {
  await standIn.stop();
  await db.destroy();
});

const mailOf = (personId: number): string => `person${personId}@test.example`;

interface As {
  email: string;
  sub?: string;
  verified?: boolean;
  refuse?: boolean;
}

/** Goes through the provider as a browser does: follows its redirections with its cookies, and says who one is. */
async function throughProvider(to: string, as: As): Promise<URL> {
  const jar = new Map<string, string>();
  let next = to;
  for (let steps = 0; steps < 12; steps++) {
    const interacts = new URL(next).pathname.startsWith('/interaction/');
    const response = await fetch(next, {
      redirect: 'manual',
      headers: { cookie: [...jar].map(([name, value]) => `${name}=${value}`).join('; ') },
      ...(interacts
        ? {
            method: 'POST',
            body: new URLSearchParams({
              email: as.email,
              name: 'Somebody',
              sub: as.sub ?? '',
              ...(as.verified === false ? {} : { verified: 'yes' }),
              ...(as.refuse === true ? { refuse: 'yes' } : {}),
            }),
          }
        : {}),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [pair = ''] = cookie.split(';');
      jar.set(pair.slice(0, pair.indexOf('=')), pair.slice(pair.indexOf('=') + 1));
    }
    const location = response.headers.get('location');
    if (location === null) throw new Error(`The provider stopped at ${next}: ${await response.text()}`);
    next = new URL(location, next).href;
    if (next.startsWith(HOME)) return new URL(next);
  }
  throw new Error('The provider leads nowhere.');
}

async function signOn(as: As): Promise<{ session: string; next: string }> {
  const { to, token } = await beginSignOn(db, settings, id, '/boards');
  const back = await throughProvider(to, as);
  return finishSignOn(db, settings, { token, query: back.search, agent: '' });
}

describe('signing in with an account elsewhere', () => {
  it('finds who has the verified address, and knows the account when that changes', async () => {
    const person = people[0]!;
    const first = await signOn({ email: mailOf(person).toUpperCase(), sub: 'one' });
    expect(first.next).toBe('/boards');
    const session = (await readSession(db, first.session))!;
    expect(session.actor.id).toBe(person);
    const later = await signOn({ email: 'married@elsewhere.example', sub: 'one' });
    expect((await readSession(db, later.session))!.actor.id).toBe(person);
    expect(await listProviders(db, coordinator)).toMatchObject([
      { name: 'The house', people: 1, hasSecret: true },
    ]);
    // Signing out there takes the token it gave, which is kept sealed.
    const out = new URL((await whereToSignOut(db, settings, await signedInAt(db, session.hash))) ?? '');
    expect(out.searchParams.get('post_logout_redirect_uri')).toBe(`${HOME}/sign-in`);
    expect(out.searchParams.get('id_token_hint')).toMatch(/^[\w-]+\.[\w-]+\.[\w-]+$/);
    const [kept] = await rows<{ token: Buffer }>(
      db,
      'SELECT id_token AS token FROM sessions WHERE token_hash = ?',
      [session.hash],
    );
    expect(kept!.token.toString('latin1')).not.toContain(out.searchParams.get('id_token_hint')!.slice(0, 20));
  });

  it('finds by an identity, and refuses in words whoever it does not know', async () => {
    const person = people[1]!;
    await addIdentity(db, coordinator, person, { system: 'house', value: 'Kit' });
    const { session } = await signOn({ email: 'kit@elsewhere.example', sub: 'two', verified: false });
    expect((await readSession(db, session))!.actor.id).toBe(person);
    await expect(signOn({ email: 'nobody@elsewhere.example' })).rejects.toMatchObject({
      status: 403,
      message: expect.stringContaining('is nobody here yet') as string,
    });
    await expect(signOn({ email: mailOf(people[2]!), verified: false })).rejects.toMatchObject({
      status: 403,
      message: expect.stringContaining('is not verified') as string,
    });
    await expect(signOn({ email: mailOf(people[2]!), refuse: true })).rejects.toMatchObject({
      status: 422,
      message: expect.stringContaining('access_denied') as string,
    });
  });

  it('lets no second account in as the same person until a coordinator takes the first away', async () => {
    const person = people[3]!;
    await signOn({ email: mailOf(person), sub: 'before' });
    await expect(signOn({ email: mailOf(person), sub: 'after' })).rejects.toMatchObject({ status: 403 });
    const other = { ...coordinator, id: person, role: 'member' as const };
    await expect(forgetSignOn(db, other, person, id)).rejects.toMatchObject({ status: 403 });
    await forgetSignOn(db, coordinator, person, id);
    expect(
      (await readSession(db, (await signOn({ email: mailOf(person), sub: 'after' })).session))!.actor.id,
    ).toBe(person);
  });

  it('signs nobody in who has left, whatever the provider says', async () => {
    const person = people[4]!;
    const { session } = await signOn({ email: mailOf(person), sub: 'leaver' });
    await changeStanding(db, coordinator, person, true);
    expect(await readSession(db, session)).toBeUndefined();
    await expect(signOn({ email: mailOf(person), sub: 'leaver' })).rejects.toMatchObject({ status: 403 });
  });

  it('takes an answer once, in the browser it was begun in, with the state it was begun with', async () => {
    const as = { email: mailOf(people[5]!) };
    const { to, token } = await beginSignOn(db, settings, id, '/');
    const back = await throughProvider(to, as);
    const other = await beginSignOn(db, settings, id, '/');
    await expect(
      finishSignOn(db, settings, { token: other.token, query: back.search, agent: '' }),
    ).rejects.toMatchObject({ status: 422 });
    await expect(
      finishSignOn(db, settings, { token: 'made up', query: back.search, agent: '' }),
    ).rejects.toMatchObject({ status: 409 });
    const both = await Promise.allSettled(
      [1, 2].map(() => finishSignOn(db, settings, { token, query: back.search, agent: '' })),
    );
    expect(both.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await countOf(db, 'FROM sessions WHERE person_id = ?', [people[5]!])).toBe(1);
  });

  it('lets the same account in from two tabs at once', async () => {
    const person = people[6]!;
    const both = await Promise.all([signOn({ email: mailOf(person) }), signOn({ email: mailOf(person) })]);
    for (const { session } of both) expect((await readSession(db, session))!.actor.id).toBe(person);
    expect(await countOf(db, 'FROM provider_subjects WHERE person_id = ?', [person])).toBe(1);
  });
});

describe('a provider', () => {
  it('that is inside and not listed, or down, signs nobody in and says so; its secret stays where none is given', async () => {
    const nothing = await freePort();
    const down = { ...provider, name: 'Down', issuer: `http://localhost:${nothing}` };
    const added = await addProvider(db, coordinator, settings, { provider: down, secret: '' });
    await expect(beginSignOn(db, settings, added.id, '/')).rejects.toMatchObject({ status: 422 });
    const listed = { ...settings, inside: [down.issuer] };
    await expect(beginSignOn(db, listed, added.id, '/')).rejects.toMatchObject({
      status: 502,
      message: expect.stringContaining('Down does not sign anybody in just now') as string,
    });
    const inside = { ...provider, name: 'Inside', issuer: 'https://127.0.0.1:1' };
    const hidden = await addProvider(db, coordinator, settings, { provider: inside, secret: '' });
    await expect(tryProvider(db, coordinator, settings, hidden.id)).rejects.toMatchObject({
      status: 502,
      message: expect.stringContaining('on the internal network') as string,
    });
    await expect(addProvider(db, coordinator, settings, { provider, secret: '' })).rejects.toMatchObject({
      errors: [{ field: 'provider.name' }],
    });
    await alterProvider(db, coordinator, settings, id, { provider, secret: null, on: true });
    expect(await tryProvider(db, coordinator, settings, id)).toEqual({ signsOut: true });
    await alterProvider(db, coordinator, settings, id, { provider, secret: null, on: false });
    await expect(beginSignOn(db, settings, id, '/')).rejects.toMatchObject({ status: 404 });
  });

  it('must say how people are found', () => {
    expect(providerSchema.safeParse({ ...provider, issuer: 'ftp://x' }).success).toBe(false);
  });
});
