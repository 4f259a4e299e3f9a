import SCIMMY from 'scimmy';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openSession } from '../../src/server/accounts/opening.ts';
import { readSession } from '../../src/server/accounts/service.ts';
import { personForDesk } from '../../src/server/people/page.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { answerScim } from '../../src/server/scim/answer.ts';
import {
  addScimClient,
  listScimClients,
  removeScimClient,
  renewScimToken,
} from '../../src/server/scim/clients.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase } from './world.ts';

const BASE = 'https://bell.example/scim/v2';
const USER = 'urn:ietf:params:scim:schemas:core:2.0:User';
const GROUP = 'urn:ietf:params:scim:schemas:core:2.0:Group';
const ENTERPRISE = 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User';
const PATCH = 'urn:ietf:params:scim:api:messages:2.0:PatchOp';

let db: Database;
let token: string;
let clientId: number;
let others: number[];

beforeAll(async () => {
  ({ db } = await freshDatabase('scim'));
  others = await addPeople(db, 12);
  ({ id: clientId, token } = await addScimClient(db, coordinator, { name: 'Personnel' }));
});
afterAll(() => db.destroy());

/** What of an answer the tests look at; each looks at what it asked for. */
interface Body extends Record<string, unknown> {
  id: string;
  detail: string;
  scimType: string;
  meta: { version: string; lastModified: string };
  emails: { value: string; primary: boolean }[];
  members: { value: string }[];
  Resources: Body[];
}

interface Answer {
  status: number;
  body: Body;
  headers: Headers;
}

async function call(
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<Answer> {
  const url = `${BASE}/${path}`;
  const request = new Request(url, {
    method,
    headers: {
      authorization: `Bearer ${token}`,
      ...(body === undefined ? {} : { 'content-type': 'application/scim+json' }),
      ...headers,
    },
    ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  });
  const parts = new URL(url).pathname.replace('/scim/v2', '').split('/').filter(Boolean);
  const response = await answerScim(db, BASE, parts, request, (error) => {
    throw error;
  });
  const text = await response.text();
  return {
    status: response.status,
    body: text === '' ? ({} as Body) : (JSON.parse(text) as Body),
    headers: response.headers,
  };
}

const patch = (...Operations: Record<string, unknown>[]): Record<string, unknown> => ({
  schemas: [PATCH],
  Operations,
});

let made = 0;
/** Adds somebody as a client does; gives their id. */
async function add(part: Record<string, unknown> = {}): Promise<string> {
  const n = ++made;
  const { status, body } = await call('POST', 'Users', {
    schemas: [USER],
    userName: `new${n}`,
    name: { givenName: 'Ada', familyName: `Byron ${n}` },
    emails: [{ value: `new${n}@test.example`, primary: true, type: 'work' }],
    ...part,
  });
  expect(status, JSON.stringify(body)).toBe(201);
  return body.id;
}

const person = async (id: string) => (await personForDesk(db, coordinator, Number(id))).person;

describe('a user', () => {
  it('is added with what it has a place for here, and told again as a stranger’s reader of SCIM expects it', async () => {
    const { status, body, headers } = await call('POST', 'Users', {
      schemas: [USER, ENTERPRISE],
      userName: 'bjensen',
      externalId: '701984',
      name: { givenName: 'Barbara', familyName: 'Jensen', formatted: 'Ms. Barbara J Jensen' },
      emails: [
        { value: 'babs@home.example', type: 'home' },
        { value: 'BJensen@Test.Example', type: 'work', primary: true },
      ],
      phoneNumbers: [{ value: '555-555-8377', type: 'work' }],
      title: 'curator',
      timezone: 'Asia/Kathmandu',
      active: 'True',
      [ENTERPRISE]: { department: 'South', employeeNumber: '701984' },
    });
    expect(status).toBe(201);
    expect(headers.get('location')).toBe(`${BASE}/Users/${body.id}`);
    expect(headers.get('etag')).toBe(body.meta.version);
    expect(await person(body.id)).toMatchObject({
      name: 'Ms. Barbara J Jensen',
      mail: 'bjensen@test.example',
      occupation: 'curator',
      zone: 'Asia/Kathmandu',
      stationName: 'South',
      role: 'member',
      standing: 'active',
    });
    const { body: again } = await call('GET', `Users/${body.id}`);
    expect(again).toEqual(body);
    expect(again).toMatchObject({
      userName: 'bjensen',
      externalId: '701984',
      phoneNumbers: [{ value: '555-555-8377' }],
      [ENTERPRISE]: { employeeNumber: '701984' },
    });
    expect(again.emails.map((each) => [each.value, each.primary])).toEqual([
      ['bjensen@test.example', true],
      ['babs@home.example', false],
    ]);
    const read = new SCIMMY.Schemas.User(again, 'out');
    expect(read).toMatchObject({ id: body.id, userName: 'bjensen', displayName: 'Ms. Barbara J Jensen' });
    expect((await personForDesk(db, coordinator, Number(body.id))).history[0]).toMatchObject({
      by: 'Personnel',
      words: expect.stringMatching(/^added/) as string,
    });
  });

  it('is refused where somebody is called so, or has the address, here or there, and where it does not fit', async () => {
    const id = await add();
    const twice = { schemas: [USER], userName: `NEW${made}` };
    expect(await call('POST', 'Users', twice)).toMatchObject({
      status: 409,
      body: { scimType: 'uniqueness' },
    });
    const theirs = {
      schemas: [USER],
      userName: 'somebody',
      emails: [{ value: `Person${others[0]}@test.example` }],
    };
    expect(await call('POST', 'Users', theirs)).toMatchObject({ status: 409 });
    const asName = { schemas: [USER], userName: `person${others[0]}@test.example` };
    expect(await call('POST', 'Users', asName)).toMatchObject({ status: 409 });
    for (const [bad, attribute] of [
      [{ userName: '' }, 'userName'],
      [{ userName: 'x'.repeat(255) }, 'userName'],
      [{ userName: 'y', emails: [{ value: 'no address' }] }, 'emails'],
      [{ userName: 'y', active: 'perhaps' }, 'active'],
    ] as const)
      expect(await call('POST', 'Users', { schemas: [USER], ...bad })).toMatchObject({
        status: 400,
        body: {
          scimType: 'invalidValue',
          status: '400',
          detail: expect.stringContaining(attribute) as string,
        },
      });
    expect((await call('POST', 'Users', '{')).body).toMatchObject({ scimType: 'invalidSyntax' });
    expect((await call('PUT', `Users/${id}`, { schemas: [USER], userName: 'bjensen' })).status).toBe(409);
  });

  it('who leaves there is out here at once, keeps what they did, and is who they were when they come again', async () => {
    const id = await add();
    const session = await openSession(db, Number(id));
    expect(await readSession(db, session)).toBeDefined();
    const { status, body } = await call(
      'PATCH',
      `Users/${id}`,
      patch({ op: 'Replace', path: 'active', value: 'False' }),
    );
    expect(status).toBe(200);
    expect(body.active).toBe(false);
    expect(await readSession(db, session)).toBeUndefined();
    expect((await person(id)).standing).toBe('left');
    await call('PATCH', `Users/${id}`, patch({ op: 'replace', value: { active: true } }));
    expect((await person(id)).standing).toBe('active');
    expect((await call('DELETE', `Users/${id}`)).status).toBe(204);
    expect((await person(id)).standing).toBe('left');
    expect((await call('GET', `Users/${id}`)).status).toBe(404);
    expect((await call('DELETE', `Users/${id}`)).status).toBe(404);
    const again = await call('POST', 'Users', {
      schemas: [USER],
      userName: `new${made}`,
      emails: [{ value: `new${made}@test.example` }],
      displayName: 'Ada Again',
    });
    expect(again).toMatchObject({ status: 201, body: { id, displayName: 'Ada Again', active: true } });
    expect(
      await countOf(db, "FROM events WHERE kind = 'person.left' AND subject = ?", [`person:${id}`]),
    ).toBe(2);
  });

  it('never takes the last coordinator away, nor changes anybody’s role', async () => {
    const mine = patch({ op: 'replace', path: 'active', value: false });
    expect(await call('PATCH', `Users/${coordinator.id}`, mine)).toMatchObject({ status: 409 });
    expect((await call('DELETE', `Users/${coordinator.id}`)).status).toBe(409);
    await call('PUT', `Users/${coordinator.id}`, {
      schemas: [USER],
      userName: 'maud',
      displayName: 'Maud Fenwright',
      emails: [{ value: 'maud@test.example' }],
      roles: [{ value: 'member' }],
    });
    expect(await person(String(coordinator.id))).toMatchObject({
      role: 'coordinator',
      mail: 'maud@test.example',
    });
  });

  it('is changed in parts: the name follows from its parts, a mail address by its kind, and what is told is kept', async () => {
    const id = await add({ nickName: 'Countess' });
    const { body } = await call(
      'PATCH',
      `Users/${id}`,
      patch(
        { op: 'replace', path: 'name.familyName', value: 'Lovelace' },
        { op: 'replace', path: 'emails[type eq "work"].value', value: 'lovelace@test.example' },
        { op: 'add', path: `${ENTERPRISE}:department`, value: 'North' },
        { op: 'remove', path: 'nickName' },
      ),
    );
    expect(body).toMatchObject({
      displayName: 'Ada Lovelace',
      name: { givenName: 'Ada', familyName: 'Lovelace', formatted: 'Ada Lovelace' },
      emails: [{ value: 'lovelace@test.example', primary: true, type: 'work' }],
    });
    expect(body.nickName).toBeUndefined();
    expect(await person(id)).toMatchObject({ name: 'Ada Lovelace', stationName: 'North' });
    for (const [bad, type] of [
      [patch({ op: 'replace', path: 'emails[type eq "fax"].value' }), null],
      [patch({ op: 'move', path: 'name' }), 'invalidValue'],
      [patch({ op: 'replace', path: '__proto__.polluted', value: 1 }), 'invalidPath'],
      [{ Operations: [] }, 'invalidValue'],
    ] as const) {
      const answer = await call('PATCH', `Users/${id}`, bad);
      expect(answer.status, JSON.stringify(bad)).toBe(400);
      if (type !== null) expect(answer.body.scimType).toBe(type);
    }
    expect(({} as Record<string, unknown>).polluted).toBeUndefined();
  });

  it('is changed only where nobody has changed it since, and told only where it has', async () => {
    const id = await add();
    const { headers } = await call('GET', `Users/${id}`);
    const etag = headers.get('etag') ?? '';
    expect((await call('GET', `Users/${id}`, undefined, { 'if-none-match': etag })).status).toBe(304);
    const change = (title: string, ifMatch: string): Promise<Answer> =>
      call('PATCH', `Users/${id}`, patch({ op: 'add', path: 'title', value: title }), {
        'if-match': ifMatch,
      });
    const both = await Promise.all([change('one', etag), change('two', etag)]);
    expect(both.map((each) => each.status).sort()).toEqual([200, 412]);
    expect((await call('GET', `Users/${id}`, undefined, { 'if-none-match': etag })).status).toBe(200);
    expect((await change('three', '*')).status).toBe(200);
    expect((await call('DELETE', `Users/${id}`, undefined, { 'if-match': etag })).status).toBe(412);
  });
});

describe('users', () => {
  it('are filtered as a stranger’s reader of filters does it', async () => {
    await add({ externalId: 'x-1', title: 'driver', displayName: 'Zoë O’Hara' });
    const whole = await call('GET', 'Users?count=200');
    const all = whole.body.Resources as Record<string, unknown>[];
    expect(whole.body).toMatchObject({ totalResults: all.length, startIndex: 1, itemsPerPage: all.length });
    const moment = (all[3]!.meta as { lastModified: string }).lastModified;
    for (const filter of [
      'userName eq "bjensen"',
      `userName eq "person${others[1]}@test.example"`,
      `userName eq "person-${others[9]}"`,
      'userName sw "person" and active eq true',
      'userName co "%"',
      'not (userName sw "person") and title pr',
      'title eq "driver" or title eq "curator"',
      'title ne "driver"',
      'externalId eq "x-1"',
      'emails[value co "jensen"]',
      'emails.value ew "@test.example"',
      'active eq false',
      'name.familyName sw "Byron"',
      `id eq "${String(all[2]!.id)}"`,
      `meta.lastModified ge "${moment}"`,
      `(meta.lastModified lt "${moment}" or title co "ur") and userName ne "bjensen"`,
    ]) {
      const { status, body } = await call('GET', `Users?count=200&filter=${encodeURIComponent(filter)}`);
      expect(status, `${filter}: ${JSON.stringify(body)}`).toBe(200);
      const ids = (found: unknown[]): string[] => (found as { id: string }[]).map((each) => each.id);
      // That reader cannot look into what somebody does not have.
      const having = filter.includes('emails') ? all.filter((user) => user.emails !== undefined) : all;
      const expected = new SCIMMY.Types.Filter(filter).match(having);
      expect(ids(body.Resources), filter).toEqual(ids(expected));
    }
  });

  it('are found by their user name whatever the size of its letters (RFC 7643, 4.1.1)', async () => {
    const { body } = await call('GET', `Users?filter=${encodeURIComponent('userName eq "BJENSEN"')}`);
    expect(body.Resources).toMatchObject([{ userName: 'bjensen' }]);
  });

  it('are told page by page, with what is asked of each, and refused what cannot be asked', async () => {
    const { body: first } = await call('GET', 'Users?count=4&attributes=userName');
    const { body: second } = await call('GET', 'Users?startIndex=5&count=4&attributes=userName');
    const ids = [...first.Resources, ...second.Resources].map((each) => Number(each.id));
    expect(ids).toEqual([...new Set(ids)].sort((a, b) => a - b));
    expect(ids).toHaveLength(8);
    expect(Object.keys(first.Resources[0]!).sort()).toEqual(['id', 'meta', 'schemas', 'userName']);
    expect((await call('GET', 'Users?count=0')).body).toMatchObject({ Resources: [], itemsPerPage: 0 });
    expect((await call('GET', 'Users?excludedAttributes=emails')).body.Resources[0]!.emails).toBeUndefined();
    for (const filter of [
      'password eq "x"',
      'userName eq',
      'userName gt true',
      '(',
      `${'('.repeat(60)}id pr${')'.repeat(60)}`.repeat(40),
      'active gt false',
      'userName eq "x" ; DROP TABLE people',
    ])
      expect(await call('GET', `Users?filter=${encodeURIComponent(filter)}`), filter).toMatchObject({
        status: 400,
        body: { scimType: 'invalidFilter' },
      });
    expect((await call('GET', 'Users?startIndex=first')).status).toBe(400);
  });
});

describe('a group', () => {
  it('is made, filled, changed in parts and emptied, each change once', async () => {
    const [a, b, c] = [await add(), await add(), await add()];
    const { status, body } = await call('POST', 'Groups', {
      schemas: [GROUP],
      displayName: 'Night keepers',
      externalId: 'g-1',
      members: [{ value: a }, { value: b }],
    });
    expect(status).toBe(201);
    const at = `Groups/${body.id}`;
    const members = async (): Promise<string[]> =>
      ((await call('GET', at)).body.members as { value: string }[]).map((each) => each.value);
    expect(await members()).toEqual([a, b]);
    const unasked = await call('GET', `${at}?excludedAttributes=members`);
    expect(unasked.body.members).toBeUndefined();
    expect(unasked.headers.get('etag')).toBe((await call('GET', at)).headers.get('etag'));
    const done = await call(
      'PATCH',
      at,
      patch(
        { op: 'Add', path: 'members', value: [{ value: c }, { value: a }] },
        { op: 'remove', path: `members[value eq "${b}"]` },
        { op: 'replace', value: { displayName: 'Keepers of the night', id: body.id } },
      ),
      { 'if-match': String(unasked.headers.get('etag')) },
    );
    expect(done.body).toMatchObject({ displayName: 'Keepers of the night', externalId: 'g-1' });
    expect(await members()).toEqual([a, c]);
    expect(new SCIMMY.Schemas.Group(done.body, 'out')).toMatchObject({ displayName: 'Keepers of the night' });
    expect((await call('GET', `Users/${c}`)).body.groups).toMatchObject([{ value: body.id, type: 'direct' }]);
    const joins = await rows<{ detail: string }>(
      db,
      "SELECT detail FROM events WHERE kind = 'group.membership changed' AND subject = ? ORDER BY id",
      [`group:${body.id}`],
    );
    expect(joins.map(({ detail }) => JSON.parse(detail) as unknown)).toMatchObject([
      { joined: [Number(a), Number(b)], left: [] },
      { joined: [Number(c)], left: [] },
      { joined: [], left: [Number(b)] },
    ]);
    // The version from before is over.
    const etag = String(unasked.headers.get('etag'));
    expect((await call('PUT', at, { schemas: [GROUP], displayName: 'X' }, { 'if-match': etag })).status).toBe(
      412,
    );
    await call('PUT', at, { schemas: [GROUP], displayName: 'Keepers', members: [{ value: b }] });
    expect(await members()).toEqual([b]);
    await call('PATCH', at, patch({ op: 'remove', path: 'members' }));
    expect(await members()).toEqual([]);
    expect((await call('DELETE', at)).status).toBe(204);
    expect((await call('GET', at)).status).toBe(404);
  });

  it('by a rule is not told of; nobody unknown and no group is put in; one in use stays', async () => {
    const live = await addGroup(db, 'By rule', { kind: 'everyone' });
    const fixed = await addGroup(db, 'Of a board', [others[0]!]);
    await db('boards').insert({ name: 'Of a group', about: 'x', group_id: fixed, owner_id: 1 });
    expect((await call('GET', `Groups/${live}`)).status).toBe(404);
    const { body } = await call('GET', 'Groups?filter=displayName%20co%20%22b%22&count=50');
    expect(body.Resources.map((each) => Number(each.id))).toEqual([fixed]);
    const bad = async (members: unknown[]): Promise<Answer> =>
      call('PATCH', `Groups/${fixed}`, patch({ op: 'add', path: 'members', value: members }));
    expect((await bad([{ value: '999999' }])).body.detail).toContain('999999');
    expect((await bad([{ value: String(live), type: 'Group' }])).status).toBe(400);
    expect(await call('DELETE', `Groups/${fixed}`)).toMatchObject({
      status: 409,
      body: { detail: expect.stringContaining('board') as string },
    });
    expect((await call('POST', 'Groups', { displayName: 'Of a board' })).status).toBe(409);
    expect((await call('POST', 'Groups', { displayName: ' ' })).status).toBe(400);
  });
});

describe('the service', () => {
  it('describes itself so that a client can read it', async () => {
    const { body: config } = await call('GET', 'ServiceProviderConfig');
    expect(config).toMatchObject({ patch: { supported: true }, etag: { supported: true } });
    const { body: types } = await call('GET', 'ResourceTypes');
    for (const type of types.Resources as unknown as { endpoint: string; schema: string }[]) {
      expect((await call('GET', type.endpoint.slice(1))).status).toBe(200);
      const { body: schema } = await call('GET', `Schemas/${type.schema}`);
      const names = (of: { attributes: { name: string }[] }): string[] =>
        of.attributes.map((each) => each.name);
      const known = type.endpoint === '/Users' ? SCIMMY.Schemas.User : SCIMMY.Schemas.Group;
      const described = known.definition.describe() as { attributes: { name: string }[] };
      expect(names(described)).toEqual(expect.arrayContaining(names(schema as never)));
    }
    for (const path of ['Nothing', 'constructor', 'Users/1/2', 'Schemas/none', 'Users/abc', 'Users/999999'])
      expect((await call('GET', path)).status, path).toBe(404);
    expect((await call('DELETE', 'Users')).status).toBe(405);
    expect((await call('POST', 'Users', '{}', { 'content-type': 'text/plain' })).status).toBe(415);
  });

  it('lets in only who has the token of now, which is kept nowhere', async () => {
    const before = token;
    const without = await call('GET', 'Users', undefined, { authorization: '' });
    expect(without.status).toBe(401);
    expect(without.headers.get('www-authenticate')).toContain('Bearer');
    ({ token } = await renewScimToken(db, coordinator, clientId));
    expect((await call('GET', 'Users', undefined, { authorization: `Bearer ${before}` })).status).toBe(401);
    expect((await call('GET', 'Users')).status).toBe(200);
    const [line] = await listScimClients(db, coordinator);
    expect(line).toMatchObject({ name: 'Personnel', madeBy: 'Maud Fenwright' });
    expect(line!.people).toBeGreaterThan(5);
    await expect(listScimClients(db, { ...coordinator, id: 2, role: 'editor' })).rejects.toMatchObject({
      status: 403,
    });
    const kept = await rows<{ hash: Buffer }>(db, 'SELECT token_hash AS hash FROM scim_clients');
    expect(kept.some(({ hash }) => hash.toString().includes(token))).toBe(false);
    await removeScimClient(db, coordinator, clientId);
    expect((await call('GET', 'Users')).status).toBe(401);
    // Whom it kept is still here.
    expect(await countOf(db, 'FROM scim_users WHERE client_id IS NULL', [])).toBeGreaterThan(5);
  });
});
