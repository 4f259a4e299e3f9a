import { createHmac } from 'node:crypto';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { freePort } from '../../scripts/house/ports.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { hookInSchema, type HookIn } from '../../src/core/gateways/hookIn.ts';
import { hookOutSchema, RETRY_AFTER_S } from '../../src/core/gateways/hookOut.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { insertBoard, setModerator } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { receive, type Received } from '../../src/server/gateways/receiving.ts';
import {
  addHookIn,
  alterHookIn,
  deleteHookIn,
  listHooksIn,
  openHookIn,
  renewHookIn,
  switchHookIn,
} from '../../src/server/gateways/inService.ts';
import {
  addHookOut,
  openHookOut,
  renewHookOut,
  sendAgain,
  sendTrial,
  switchHookOut,
} from '../../src/server/gateways/outService.ts';
import { emit } from '../../src/server/events/store.ts';
import { groupPage } from '../../src/server/groups/making.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { decidePost } from '../../src/server/posts/moderating.ts';
import { startReceiverStandIn } from '../../src/standins/receiver/server.ts';
import { actIn, field, putToWork, saidIn, says } from './automating.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  followAll,
  freshDatabase,
  mailHouse,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
  type MailHouse,
  refusal,
} from './world.ts';

let db: Database;
let attempts: AttemptLimit;
let mail: MailHouse;
const engines: { stop: () => Promise<void> }[] = [];
beforeAll(async () => {
  const fresh = await freshDatabase('gateways');
  ({ db } = fresh);
  attempts = new AttemptLimit(fresh.url);
  mail = await mailHouse();
});
afterEach(async () => {
  await Promise.all(engines.splice(0).map((each) => each.stop()));
  // What the engines had not come to yet is told to the ways out of this test, and to none made after it.
  await followAll(db);
});
afterAll(async () => {
  await mail.stop();
  await db.destroy();
});

let made = 0;
const board = (gateways = true): Promise<number> =>
  insertBoard(db, {
    name: `Board ${++made}`,
    about: '',
    groupId: null,
    ...PRESETS.talk.switches,
    gateways,
    ownerId: coordinator.id,
    takesThanks: false,
    position: made,
  });
const hookIn = (target: HookIn['target'], part: Partial<HookIn> = {}): HookIn =>
  hookInSchema.parse({
    name: `System ${++made}`,
    target,
    senderId: null,
    held: false,
    perMinute: 600,
    mapping: null,
    fields: [],
    ...part,
  });

interface WayIn {
  id: number;
  key: string;
  secret: string;
}
async function wayIn(hook: HookIn, by: Actor = coordinator): Promise<WayIn> {
  const { id, secret } = await addHookIn(db, by, hook, SECRET);
  const { address } = await openHookIn(db, by, id, { publicUrl: 'https://bell.example', mailDomain: null });
  return { id, secret, key: address.split('/').at(-1) ?? '' };
}

/** Signs by the text of Standard Webhooks, without the package that reads it here. */
function signed(secret: string, id: string, body: string, atMs = Date.now()): Record<string, string> {
  const timestamp = String(Math.floor(atMs / 1000));
  const key = Buffer.from(secret.slice('whsec_'.length), 'base64');
  const signature = createHmac('sha256', key).update(`${id}.${timestamp}.${body}`).digest('base64');
  return { 'webhook-id': id, 'webhook-timestamp': timestamp, 'webhook-signature': `v1,${signature}` };
}
const call = (
  key: string,
  headers: Record<string, string>,
  body: string | Buffer,
  type = 'application/json',
): Promise<Received> =>
  receive(db, key, new Headers({ 'content-type': type, ...headers }), Buffer.from(body), {
    attempts,
    asking: { secret: SECRET, inside: [] },
    publicUrl: 'https://bell.example',
  });
const bearer = (secret: string): Record<string, string> => ({ authorization: `Bearer ${secret}` });
const send = ({ key, secret }: WayIn, message: unknown): Promise<Received> =>
  call(key, bearer(secret), JSON.stringify(message));
const postsOn = (boardId: number) =>
  rows<{
    id: number;
    state: string;
    title: string;
    byline: string;
    body: string;
    part: number;
    parts: number;
  }>(
    db,
    `SELECT o.id, o.state, v.title, v.byline, v.body, o.part, o.parts FROM posts o
     JOIN announcement_versions v ON v.id = o.version_id WHERE o.board_id = ? ORDER BY o.id`,
    [boardId],
  );

describe('a way in', () => {
  it('takes what is signed, or has the secret as a token, and nothing else', async () => {
    const on = await board();
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }));
    const body = JSON.stringify({ title: 'Door open', text: 'For **eleven** minutes.' });
    expect(await call(way.key, signed(way.secret, 'msg_1', body), body)).toMatchObject({
      repeated: false,
      state: 'up',
      address: expect.stringMatching(/^https:\/\/bell\.example\/posts\/\d+$/) as string,
    });
    expect(await send(way, { title: 'By token', text: 'x' })).toMatchObject({ state: 'up' });
    const other = await wayIn(hookIn({ kind: 'board', boardId: on }));
    for (const headers of [
      {},
      bearer(other.secret),
      signed(other.secret, 'msg_2', body),
      signed(way.secret, 'msg_2', `${body} `),
      { ...signed(way.secret, 'msg_2', body), 'webhook-id': 'msg_3' },
      signed(way.secret, 'msg_2', body, Date.now() - 6 * 60_000),
      signed(way.secret, 'msg_2', body, Date.now() + 6 * 60_000),
    ])
      expect((await refusal(call(way.key, headers, body))).status).toBe(401);
    expect((await refusal(call('nobodynobodynobodynobo', bearer(way.secret), body))).status).toBe(404);
    expect((await postsOn(on)).map((post) => post.title)).toEqual(['Door open', 'By token']);
    const { secret } = await renewHookIn(db, coordinator, way.id, SECRET);
    expect((await refusal(send(way, { title: 'Old secret', text: 'x' }))).status).toBe(401);
    expect(await send({ ...way, secret }, { title: 'New secret', text: 'x' })).toMatchObject({ state: 'up' });
  });

  it('makes one post of one id, also where it comes ten times at once, and by a signature that is replayed', async () => {
    const on = await board();
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }));
    const message = { id: 'reading-1', title: 'Once', text: 'x' };
    const answers = await Promise.all(Array.from({ length: 10 }, () => send(way, message)));
    expect(await postsOn(on)).toHaveLength(1);
    expect(new Set(answers.flatMap(({ address }) => address ?? [])).size).toBe(1);
    expect(await send(way, message)).toMatchObject({ repeated: true, state: 'up' });
    expect(answers.filter(({ repeated }) => !repeated)).toHaveLength(1);
    // An id is what it is, to the letter.
    await send(way, { ...message, id: 'READING-1' });
    await send(way, { ...message, id: 'reading-1 ' });
    expect(await postsOn(on)).toHaveLength(3);
    const body = JSON.stringify({ title: 'Signed', text: 'x' });
    const headers = signed(way.secret, 'msg_7', body);
    await call(way.key, headers, body);
    expect(await call(way.key, headers, body)).toMatchObject({ repeated: true });
    expect(await postsOn(on)).toHaveLength(4);
    // Without an id nothing says that it is the same.
    await send(way, { title: 'Twice', text: 'x' });
    await send(way, { title: 'Twice', text: 'x' });
    expect(await postsOn(on)).toHaveLength(6);
  });

  it('says by field what is wrong, posts nothing of it, and shows it in its log', async () => {
    const on = await board();
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }));
    const at = async (message: unknown): Promise<string | undefined> =>
      (await refusal(send(way, message).catch((error: unknown) => Promise.reject(error as Error)))).errors[0]
        ?.field;
    expect(await at({ text: 'x' })).toBe('title');
    expect(await at({ title: 'x' })).toBe('text');
    expect(await at({ title: 'x', text: 'x', colour: 'red' })).toBe('');
    expect(await at({ title: 'x', text: 'x', button: { label: 'Go', url: 'javascript:alert(1)' } })).toBe(
      'button.url',
    );
    expect(await at({ title: 'x', sections: [{ text: 'x', image: { data: 'AAAA', alt: 'A dot' } }] })).toBe(
      'sections.0.image',
    );
    expect(
      await at({
        title: 'x',
        sections: [{ text: 'x', image: { url: 'http://127.0.0.1:1/a.png', alt: 'A' } }],
      }),
    ).toBe('sections.0.image');
    for (const [body, type, status] of [
      ['{', 'application/json', 400],
      [Buffer.from([0x22, 0xff, 0x22]), 'application/json', 400],
      ['title=x', 'application/x-www-form-urlencoded', 415],
      ['[]', 'application/cloudevents-batch+json', 415],
      [`${'['.repeat(100)}${']'.repeat(100)}`, 'application/json', 422],
    ] as const)
      expect((await refusal(call(way.key, bearer(way.secret), body, type))).status).toBe(status);
    expect(await postsOn(on)).toEqual([]);
    const { calls } = await openHookIn(db, coordinator, way.id, {
      publicUrl: 'https://bell.example',
      mailDomain: null,
    });
    expect(calls.every((each) => each.outcome === 'refused')).toBe(true);
    expect(calls.at(-1)).toMatchObject({
      status: 422,
      reason: 'title: This is missing. Give a text.',
    });
    expect((await listHooksIn(db, coordinator)).find((line) => line.id === way.id)?.trouble).not.toBeNull();
  });

  it('puts up sections in parts of the board’s size, fields as a table, and calls on whoever is found', async () => {
    const on = await board();
    await db('boards').where({ id: on }).update({ section_limit: 2 });
    const [person] = await addPeople(db, 1);
    await db('people').where({ id: person }).update({ name: 'Otieno Marsh' });
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }));
    const { notFound } = await send(way, {
      title: 'Three sections',
      text: 'First.\n\n<script>alert(1)</script>',
      fields: [{ label: 'Vault', value: 'Quillan' }],
      call: ['Otieno Marsh', 'nobody@else.example'],
      sections: [
        { heading: 'Second', text: '- one\n- two', accent: 'ochre' },
        { heading: 'Third', text: 'Last.' },
      ],
    });
    expect(notFound).toEqual(['nobody@else.example']);
    const posts = await postsOn(on);
    expect(posts.map(({ part, parts }) => [part, parts])).toEqual([
      [1, 2],
      [2, 2],
    ]);
    expect(posts[0]?.body).toContain('"tableHeader"');
    expect(posts[0]?.body).toContain(
      `"mention","attrs":{"id":${person}`.replace('"id"', '"kind":"person","id"'),
    );
    expect(posts[0]?.body).not.toContain('"script"');
    await followAll(db);
    expect(await countOf(db, "FROM notices WHERE person_id = ? AND kind = 'mention'", [person])).toBe(1);
  });

  it('is read once for messages that come at once, and never as it was before one came', async () => {
    const on = await board();
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }));
    const readings = vi.fn();
    const count = ({ sql }: { sql: string }): void => {
      if (/FROM hooks_in/.test(sql)) readings();
    };
    db.on('query', count);
    const all = await Promise.all(
      Array.from({ length: 12 }, (_each, n) =>
        send(way, { id: `at-once-${n}`, title: `Reading ${n}`, text: 'x' }),
      ),
    );
    db.off('query', count);
    expect(all.every(({ state }) => state === 'up')).toBe(true);
    expect((await postsOn(on)).map(({ title }) => title).sort()).toEqual(
      all.map((_each, n) => `Reading ${n}`).sort(),
    );
    expect(readings.mock.calls.length).toBeLessThanOrEqual(2);
    // Each post came with the line of the log that names it.
    const named = await rows<{ id: number }>(
      db,
      "SELECT post_id AS id FROM hook_calls WHERE hook_id = ? AND outcome = 'taken'",
      [way.id],
    );
    expect(named.map(({ id }) => id).sort()).toEqual((await postsOn(on)).map(({ id }) => id).sort());
    // One of them is there already and one comes twice: each is known, and the others go up with them.
    const twice = await Promise.all(
      ['at-once-0', 'again-1', 'again-1', 'again-2', 'again-3'].map((id) =>
        send(way, { id, title: `Reading ${id}`, text: 'x' }),
      ),
    );
    expect(twice.map(({ repeated }) => repeated).filter(Boolean)).toHaveLength(2);
    expect(
      (await postsOn(on))
        .map(({ title }) => title)
        .filter((title) => /again/.test(title))
        .sort(),
    ).toEqual(['Reading again-1', 'Reading again-2', 'Reading again-3']);
    // While some are in hand it is switched off: what comes from then on is refused.
    const inHand = Array.from({ length: 5 }, (_each, n) =>
      send(way, { id: `in-hand-${n}`, title: 'x', text: 'x' }),
    );
    await switchHookIn(db, coordinator, way.id, false);
    expect((await refusal(send(way, { title: 'Late', text: 'x' }))).status).toBe(409);
    await Promise.allSettled(inHand);
    expect((await postsOn(on)).some(({ title }) => title === 'Late')).toBe(false);
  });

  it('waits for a moderator where it is set so, goes by the rights of who looks after it, and not where the board takes nothing', async () => {
    const on = await board();
    const [moderatorId] = await addPeople(db, 1);
    await setModerator(db, on, moderatorId!, true);
    const moderator: Actor = {
      id: moderatorId!,
      role: 'member',
      moderates: new Set([on]),
      mayReach: new Set(),
    };
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }, { held: true, name: 'Held' }), moderator);
    expect(await send(way, { title: 'Looked at first', text: 'x' })).toMatchObject({ state: 'held' });
    const [post] = await postsOn(on);
    expect(post?.state).toBe('held');
    const waits = { id: 'waits', title: 'Waits', text: 'x' };
    await send(way, waits);
    expect(await send(way, waits)).toMatchObject({ repeated: true, state: 'held' });
    await decidePost(db, coordinator, post?.id ?? 0, { decision: 'approve', note: '' });
    expect((await postsOn(on))[0]?.state).toBe('up');
    const elsewhere = await board();
    expect(
      (await refusal(addHookIn(db, moderator, hookIn({ kind: 'board', boardId: elsewhere }), SECRET)))
        .errors[0]?.field,
    ).toBe('target');
    expect(
      (
        await refusal(
          addHookIn(
            db,
            moderator,
            hookIn(
              { kind: 'automations' },
              { fields: [{ name: 'a', pointer: '/a', kind: 'text', unit: '' }] },
            ),
            SECRET,
          ),
        )
      ).status,
    ).toBe(422);
    expect(
      (
        await refusal(
          openHookIn(db, { ...moderator, moderates: new Set(), id: 999_999 }, way.id, {
            publicUrl: 'https://bell.example',
            mailDomain: null,
          }),
        )
      ).status,
    ).toBe(404);
    const closed = await board(false);
    expect(
      (await refusal(addHookIn(db, coordinator, hookIn({ kind: 'board', boardId: closed }), SECRET)))
        .errors[0]?.field,
    ).toBe('target');
    await db('boards').where({ id: on }).update({ gateways: false });
    expect((await refusal(send(way, { title: 'Closed', text: 'x' }))).status).toBe(403);
    await db('boards').where({ id: on }).update({ gateways: true });
    await switchHookIn(db, coordinator, way.id, false);
    expect((await refusal(send(way, { title: 'Off', text: 'x' }))).status).toBe(409);
    await switchHookIn(db, coordinator, way.id, true);
    await db('people').where({ id: moderatorId }).update({ standing: 'left' });
    expect((await refusal(send(way, { title: 'Nobody', text: 'x' }))).status).toBe(409);
    const { hook, revision } = await openHookIn(db, coordinator, way.id, {
      publicUrl: 'https://bell.example',
      mailDomain: null,
    });
    await alterHookIn(db, coordinator, way.id, { revision, ...hook, held: false });
    expect(await send(way, { title: 'Taken over', text: 'x' })).toMatchObject({ state: 'up' });
  });

  it('reads CloudEvents in both modes, and takes the title and the text out of them by its pointers', async () => {
    const on = await board();
    const way = await wayIn(
      hookIn(
        { kind: 'board', boardId: on },
        {
          mapping: { title: '/alarm/name', text: '/alarm/words' },
          fields: [{ name: 'vault', pointer: '/alarm/vault', kind: 'text', unit: '' }],
        },
      ),
    );
    const data = { alarm: { name: 'Compressor off', words: 'Number two.', vault: 'Quillan' } };
    const event = { specversion: '1.0', id: 'e-1', source: '/vaults', type: 'alarm', data };
    const structured = JSON.stringify(event);
    await call(way.key, bearer(way.secret), structured, 'application/cloudevents+json');
    expect(
      await call(
        way.key,
        {
          ...bearer(way.secret),
          'ce-specversion': '1.0',
          'ce-id': 'e-1',
          'ce-source': '/vaults',
          'ce-type': 'alarm',
        },
        JSON.stringify(data),
      ),
    ).toMatchObject({ repeated: true });
    await call(
      way.key,
      {
        ...bearer(way.secret),
        'ce-specversion': '1.0',
        'ce-id': 'e-2',
        'ce-source': '/vaults',
        'ce-type': 'alarm',
      },
      JSON.stringify(data),
    );
    const posts = await postsOn(on);
    expect(posts.map((post) => post.title)).toEqual(['Compressor off', 'Compressor off']);
    expect(posts[0]?.body).toMatch(/Number two\..*Quillan/s);
    expect(
      (
        await refusal(
          call(way.key, bearer(way.secret), '{"specversion":"1.0","id":"e"}', 'application/cloudevents+json'),
        )
      ).status,
    ).toBe(400);
    expect((await refusal(send(way, { alarm: {} }))).errors[0]?.field).toBe('data/alarm/name');
  });

  it('takes so many a minute and then says when to come again', async () => {
    const on = await board();
    const way = await wayIn(hookIn({ kind: 'board', boardId: on }, { perMinute: 3 }));
    for (let at = 0; at < 3; at++) await send(way, { title: `${at}`, text: 'x' });
    const refused = await refusal(send(way, { title: 'Too much', text: 'x' }));
    expect(refused.status).toBe(429);
    expect(refused.more.retryAfter).toBeGreaterThan(0);
    expect(await postsOn(on)).toHaveLength(3);
  });

  it('reaches a group as an ordinary send, and sets automations off once for one message', async () => {
    const people = await addPeople(db, 3);
    const group = await addGroup(db, 'Keyholders', people);
    const way = await wayIn(hookIn({ kind: 'group', groupId: group, mail: false }));
    const message = { id: 'g-1', title: 'To a group', text: 'x' };
    const [one] = await Promise.all([send(way, message), send(way, message)]);
    expect(one.state).toBe('on its way');
    engines.push(await startEngine(db, mail.url));
    const reached = (): Promise<number> =>
      countOf(
        db,
        "FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id JOIN sends s ON s.id = o.send_id WHERE s.hook_id = ? AND d.state = 'delivered'",
        [way.id],
      );
    expect(await until(async () => (await reached()) === 3, 20_000)).toBe(true);
    await Promise.all(engines.splice(0).map((each) => each.stop()));

    const courier = await wayIn(
      hookIn(
        { kind: 'automations' },
        {
          fields: [
            { name: 'batch', pointer: '/parcel/batch', kind: 'text', unit: '' },
            { name: 'weight', pointer: '/parcel/weight', kind: 'number', unit: 'kg' },
          ],
        },
      ),
    );
    const id = await putToWork(
      db,
      { kind: 'called', hookId: courier.id },
      {
        if: { kind: 'test', field: 'call.weight', test: 'is over', against: { kind: 'value', value: '2' } },
        content: says(
          '{batch|A parcel} comes',
          field('call.batch', 'Something'),
          ' weighs ',
          field('call.weight'),
        ),
        tell: {
          to: { kind: 'audience', audience: { kind: 'person', id: coordinator.id } },
          boards: [],
          outside: [],
          boardField: null,
          mail: false,
          otherwise: null,
        },
      },
    );
    await send(courier, { id: 'p-1', parcel: { batch: 'B-7', weight: 2.5 } });
    await send(courier, { id: 'p-1', parcel: { batch: 'B-7', weight: 2.5 } });
    await send(courier, { id: 'p-2', parcel: { batch: 'B-8', weight: 1 } });
    expect((await refusal(send(courier, { parcel: { weight: 'heavy' } }))).errors[0]?.field).toBe(
      'data/parcel/weight',
    );
    await actIn(db);
    expect((await saidIn(db, id)).map((said) => said.title)).toEqual(['B-7 comes']);
    // What an automation listens to is not deleted under it, nor a group under what comes in for it unnoticed.
    expect(await refusal(deleteHookIn(db, coordinator, courier.id))).toMatchObject({
      status: 409,
      message: '“Of a test” listens to it. Let them listen to something else first.',
    });
    expect((await groupPage(db, coordinator, group)).uses).toEqual([
      { kind: 'way in', name: expect.any(String) as string, path: `/gateways/in/${way.id}` },
    ]);
    await db('groups').where({ id: group }).delete();
    expect((await refusal(send(way, { title: 'To nobody', text: 'x' }))).status).toBe(409);
  });
});

describe('a way out', () => {
  async function receiver(secret: string) {
    const port = await freePort();
    const standIn = await startReceiverStandIn(port, secret);
    engines.push(standIn);
    const origin = `http://127.0.0.1:${port}`;
    const came = async (): Promise<{ type: string; proof: string; id: string; body: string }[]> =>
      (await (await fetch(`${origin}/came`)).json()) as never;
    const mood = (name: string): Promise<unknown> =>
      fetch(`${origin}/mood/${name}`, { method: 'POST', redirect: 'manual' });
    return { origin, came, mood };
  }
  const wayOut = (origin: string, part = {}): Promise<{ id: number; secret: string }> =>
    addHookOut(
      db,
      coordinator,
      hookOutSchema.parse({
        name: `Follower ${++made}`,
        url: `${origin}/events`,
        kinds: ['post.up'],
        boardId: null,
        ...part,
      }),
      SECRET,
    );
  /** A receiver and a way out that share a secret: the receiver is started with the one the way out was given. */
  async function told(part = {}) {
    const { id, secret } = await wayOut('http://127.0.0.1:9', part);
    const there = await receiver(secret);
    await db.raw("UPDATE hooks_out SET hook = JSON_SET(hook, '$.url', ?) WHERE id = ?", [
      `${there.origin}/events`,
      id,
    ]);
    return { id, secret, ...there };
  }

  it('tells of each post once, signed, in order, with two engines, and of no other board', async () => {
    const on = await board();
    const elsewhere = await board();
    const { id, came, origin } = await told({ boardId: on });
    const [way, other] = [
      await wayIn(hookIn({ kind: 'board', boardId: on })),
      await wayIn(hookIn({ kind: 'board', boardId: elsewhere })),
    ];
    engines.push(
      await startEngine(db, mail.url, { inside: [origin] }),
      await startEngine(db, mail.url, { inside: [origin] }),
    );
    for (let at = 1; at <= 6; at++) await send(way, { title: `Post ${at}`, text: 'x' });
    await send(other, { title: 'Elsewhere', text: 'x' });
    expect(await until(async () => (await came()).length >= 6, 20_000)).toBe(true);
    const events = await came();
    expect(events).toHaveLength(6);
    expect(events.every((each) => each.proof === 'good' && each.type === 'clear-bell.post.up')).toBe(true);
    const [last] = events;
    expect(JSON.parse(last?.body ?? '{}')).toMatchObject({
      specversion: '1.0',
      source: expect.stringContaining('http') as string,
      data: { board: on, url: expect.stringMatching(/\/posts\/\d+$/) as string },
    });
    const allDelivered = async (): Promise<boolean> =>
      (await openHookOut(db, coordinator, id)).handovers.every((each) => each.state === 'delivered');
    expect(await until(allDelivered, 20_000)).toBe(true);
  });

  it('tells of those in a group alone, of whoever has just left it too, and refuses a group there is none of', async () => {
    const [inside = 0, outside = 0] = await addPeople(db, 2);
    const some = await addGroup(db, 'The followed', [inside]);
    const { id } = await wayOut('http://127.0.0.1:9', {
      kinds: ['person.left', 'post.up', 'announcement.sent'],
      groupId: some,
    });
    expect((await openHookOut(db, coordinator, id)).sentence).toContain('only of people in The followed');
    const told = async (): Promise<string[]> => {
      await followAll(db);
      return (
        await rows<{ subject: string }>(
          db,
          'SELECT subject FROM hook_deliveries WHERE hook_id = ? ORDER BY id',
          [id],
        )
      ).map((row) => row.subject);
    };
    for (const person of [outside, inside]) await changeStanding(db, coordinator, person, true);
    expect(await told()).toEqual([`person:${inside}`]);
    for (const person of [outside, inside]) await changeStanding(db, coordinator, person, false);
    const [toThem, toOthers] = [
      await sendNow(db, { audience: toGroups([some]) }),
      await sendNow(db, { audience: { kind: 'person', id: outside } }),
    ];
    for (const occurrence of [toOthers, toThem])
      await emit(db, 'occurrence.reached', { occurrence, roll: occurrence, boards: [], posted: false });
    expect(await told()).toEqual([`person:${inside}`, `announcement:${toThem}`]);
    expect((await refusal(wayOut('http://127.0.0.1:9', { groupId: 999_999 }))).errors[0]?.field).toBe(
      'groupId',
    );
  });

  it('tries again what failed and keeps the order of one subject; says it is gone where it answers 410', async () => {
    const { id, came, mood, origin } = await told({ kinds: ['person.left', 'person.joined'] });
    await mood('busy');
    engines.push(await startEngine(db, mail.url, { inside: [origin] }));
    const [person] = await addPeople(db, 1);
    for (const [at, kind] of (['person.left', 'person.returned', 'person.left'] as const).entries())
      await db('events').insert({
        kind,
        version: 1,
        subject: `person:${person}`,
        detail: JSON.stringify({ person }),
        at: db.raw('NOW(3) + INTERVAL ? MICROSECOND', [at * 1000]),
      });
    const handovers = async () => (await openHookOut(db, coordinator, id)).handovers;
    expect(
      await until(
        async () => (await handovers()).some((each) => each.attempts > 0 && each.status === 503),
        20_000,
      ),
    ).toBe(true);
    // Those behind it wait for it.
    expect((await handovers()).filter((each) => each.attempts > 0)).toHaveLength(1);
    await mood('well');
    await db.raw("UPDATE hook_deliveries SET try_at = NOW(3) WHERE hook_id = ? AND state = 'waiting'", [id]);
    expect(await until(async () => (await came()).length === 3, 20_000)).toBe(true);
    expect((await came()).map((each) => each.type).reverse()).toEqual([
      'clear-bell.person.left',
      'clear-bell.person.joined',
      'clear-bell.person.left',
    ]);
    const toldOf = (): Promise<number> =>
      countOf(db, "FROM notices WHERE person_id = ? AND title LIKE '%is not told any more%'", [
        coordinator.id,
      ]);
    const before = await toldOf();
    await mood('refusing');
    await sendTrial(db, coordinator, id);
    expect(await until(async () => (await openHookOut(db, coordinator, id)).state === 'paused', 20_000)).toBe(
      true,
    );
    expect(await toldOf()).toBe(before + 1);
    await mood('well');
    await switchHookOut(db, coordinator, id, true);
    // That it was taken is known to the receiver first, and told again is only what is known here to have been told.
    expect(
      await until(
        async () => (await handovers()).filter((each) => each.state === 'delivered').length === 4,
        20_000,
      ),
    ).toBe(true);
    expect(await came()).toHaveLength(4);
    expect(await sendAgain(db, coordinator, id, { sinceMs: 0 })).toEqual({ events: 4 });
    expect(await until(async () => (await came()).length === 8, 20_000)).toBe(true);
    // Told again, an event has the id it had, so that a receiver knows it.
    expect(new Set((await came()).map((each) => each.id)).size).toBe(4);
  });

  it('gives up what was tried for two days; after three in a row it is told no more, and one that is taken begins the count anew', async () => {
    const { id, mood, origin } = await told({ kinds: ['person.left'] });
    await mood('busy');
    engines.push(await startEngine(db, mail.url, { inside: [origin] }));
    const handovers = async () => (await openHookOut(db, coordinator, id)).handovers;
    /** Events about so many people, each tried for the last time; gives once they have come to an end. */
    const lastTriesOf = async (people: number): Promise<void> => {
      const before = (await handovers()).length;
      for (const person of await addPeople(db, people)) await emit(db, 'person.left', { person });
      const tried = async () => (await handovers()).slice(0, people).every((each) => each.attempts > 0);
      expect(
        await until(async () => (await handovers()).length === before + people && (await tried()), 20_000),
      ).toBe(true);
      // Whichever waits again meanwhile is tried for the last time too.
      const ended = async (): Promise<boolean> => {
        await db.raw(
          "UPDATE hook_deliveries SET attempts = ?, try_at = NOW(3) WHERE hook_id = ? AND state = 'waiting'",
          [RETRY_AFTER_S.length, id],
        );
        return (await handovers()).every(({ state }) => state !== 'waiting' && state !== 'sending');
      };
      expect(await until(ended, 20_000)).toBe(true);
    };
    const notices = (): Promise<number> =>
      countOf(db, 'FROM notices WHERE person_id = ? AND path = ?', [coordinator.id, `/gateways/out/${id}`]);
    await lastTriesOf(2);
    expect((await handovers()).map(({ state }) => state)).toEqual(['failed', 'failed']);
    expect([(await openHookOut(db, coordinator, id)).state, await notices()]).toEqual(['on', 0]);
    await mood('well');
    await sendTrial(db, coordinator, id);
    expect(await until(async () => (await handovers())[0]?.state === 'delivered', 20_000)).toBe(true);
    await mood('busy');
    await lastTriesOf(2);
    expect((await openHookOut(db, coordinator, id)).state).toBe('on');
    await lastTriesOf(1);
    expect(await until(async () => (await openHookOut(db, coordinator, id)).state === 'paused', 20_000)).toBe(
      true,
    );
    expect((await openHookOut(db, coordinator, id)).whyPaused).toMatch(
      /^3 events in a row were given up after two days. The last: It answered 503/,
    );
    expect(await notices()).toBe(1);
  });

  it('signs with the secret before too for a day, so that a receiver can change over', async () => {
    const { id, came, origin } = await told();
    await renewHookOut(db, coordinator, id, SECRET);
    engines.push(await startEngine(db, mail.url, { inside: [origin] }));
    await sendTrial(db, coordinator, id);
    expect(await until(async () => (await came()).length === 1, 20_000)).toBe(true);
    expect((await came())[0]?.proof).toBe('good');
    await db.raw('UPDATE hooks_out SET before_until = NOW(3) WHERE id = ?', [id]);
    await sendTrial(db, coordinator, id);
    expect(await until(async () => (await came()).length === 2, 20_000)).toBe(true);
    expect((await came())[0]?.proof).toBe('bad');
  });

  it('asks nothing on the internal network that the operator does not list, and a slow one holds up no other', async () => {
    const slow = await told();
    const quick = await told();
    await slow.mood('slow');
    const { id: inside } = await wayOut('http://127.0.0.1:9');
    engines.push(await startEngine(db, mail.url, { inside: [slow.origin, quick.origin] }));
    for (let at = 0; at < 20; at++) await sendTrial(db, coordinator, slow.id);
    for (let at = 0; at < 20; at++) await sendTrial(db, coordinator, quick.id);
    await sendTrial(db, coordinator, inside);
    // Trials are of one subject: the slow one has taken at most one of them by then.
    expect(await until(async () => (await quick.came()).length === 20, 20_000)).toBe(true);
    expect((await slow.came()).length).toBeLessThan(5);
    expect(
      await until(
        async () => (await openHookOut(db, coordinator, inside)).handovers[0]?.reason !== null,
        20_000,
      ),
    ).toBe(true);
    expect((await openHookOut(db, coordinator, inside)).handovers[0]).toMatchObject({
      status: null,
      reason: 'That address is on the internal network, and the operator does not list it.',
    });
  });

  it('is for coordinators alone', async () => {
    const { id } = await wayOut('http://127.0.0.1:9');
    const [member] = await addPeople(db, 1);
    const editor: Actor = { id: member!, role: 'editor', moderates: new Set(), mayReach: new Set() };
    expect((await refusal(openHookOut(db, editor, id))).status).toBe(404);
    expect((await refusal(sendTrial(db, editor, id))).status).toBe(404);
  });
});
