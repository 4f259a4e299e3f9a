import { createHmac } from 'node:crypto';
import { once } from 'node:events';
import { request } from 'node:http';
import { Worker } from 'node:worker_threads';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { hookInSchema } from '../../src/core/gateways/hookIn.ts';
import { hookOutSchema } from '../../src/core/gateways/hookOut.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { HandingOver } from '../../src/server/gateways/handing.ts';
import { addHookIn, openHookIn } from '../../src/server/gateways/inService.ts';
import { insertHandovers, insertHookOut } from '../../src/server/gateways/outStore.ts';
import { receive } from '../../src/server/gateways/receiving.ts';
import { freshSecret } from '../../src/server/gateways/sealing.ts';
import { coordinator, timed } from './data.ts';
import { sized } from './size.ts';

const POSTS = sized(3_000);
const EVENTS = sized(20_000);
const SIDE_BY_SIDE = [8, 64];
const SECRET = 'a secret that only the bench knows, 32 or more';

/** Does something so many times, some of it side by side; gives how long it took, in milliseconds. */
const sideBySide = (n: number, atOnce: number, work: (at: number) => Promise<unknown>): Promise<number> =>
  timed(async () => {
    let next = 0;
    await Promise.all(
      Array.from({ length: atOnce }, async () => {
        while (next < n) await work(next++);
      }),
    );
  });

/** Messages that come in signed, and events that are handed over to a quick and to a slow address. */
export async function gateways(db: Database, url: string): Promise<void> {
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id = ?", [coordinator.id]);
  await comingIn(db, url);
  await goingOut(db);
}

async function comingIn(db: Database, url: string): Promise<void> {
  const board = (name: string): Promise<number> =>
    insertBoard(db, {
      name,
      about: '',
      groupId: null,
      ...PRESETS.talk.switches,
      gateways: true,
      ownerId: coordinator.id,
      takesThanks: false,
      position: 1,
    });
  const [boardId, unread] = [await board('Readings'), await board('Beside them')];
  const hook = hookInSchema.parse({
    name: 'The bench',
    target: { kind: 'board', boardId },
    senderId: null,
    held: false,
    perMinute: 600,
    mapping: null,
    fields: [],
  });
  const { id, secret } = await addHookIn(db, coordinator, hook, SECRET);
  const { address } = await openHookIn(db, coordinator, id, {
    publicUrl: 'https://bell.example',
    mailDomain: null,
  });
  const key = address.split('/').at(-1) ?? '';
  const attempts = new AttemptLimit(url);
  // What a minute takes is not what is measured here.
  attempts.hook = () => Promise.resolve();
  const hmacKey = Buffer.from(secret.slice(6), 'base64');
  const sign = (of: string, timestamp: string, body: string): string =>
    `v1,${createHmac('sha256', hmacKey).update(`${of}.${timestamp}.${body}`).digest('base64')}`;
  const bodyOf = (at: number): string =>
    JSON.stringify({
      title: `Reading ${at}`,
      text: 'The air **stands**.',
      fields: [{ label: 'Room', value: 'Two' }],
    });
  await db.raw(
    'CREATE TABLE bare_posts (id BIGINT AUTO_INCREMENT PRIMARY KEY, of VARCHAR(80) UNIQUE, body JSON)',
  );
  const post = (at: number): Promise<unknown> => {
    const [of, timestamp, body] = [`m${at}`, String(Math.floor(Date.now() / 1000)), bodyOf(at)];
    return receive(
      db,
      key,
      new Headers({
        'content-type': 'application/json',
        'webhook-id': of,
        'webhook-timestamp': timestamp,
        'webhook-signature': sign(of, timestamp, body),
      }),
      Buffer.from(body),
      { attempts, asking: { secret: SECRET, inside: [] }, publicUrl: 'https://bell.example' },
    );
  };
  const bare = async (at: number): Promise<void> => {
    const [of, timestamp, body] = [`m${at}`, String(Math.floor(Date.now() / 1000)), bodyOf(at)];
    if (sign(of, timestamp, body) !== sign(of, timestamp, body)) throw new Error('It does not fit');
    await db('bare_posts').insert({ of, body });
  };
  /** What a post is, written row by row in one transaction, by a handler that reads, checks and decides nothing. */
  const rowByRow = async (at: number): Promise<void> => {
    const [of, timestamp, body] = [`r${at}`, String(Math.floor(Date.now() / 1000)), bodyOf(at)];
    if (sign(of, timestamp, body) !== sign(of, timestamp, body)) throw new Error('It does not fit');
    await db.transaction(async (trx) => {
      const by = { author_id: coordinator.id };
      const stored = JSON.stringify({ title: of, body });
      const [announcement] = await trx('announcements').insert({
        ...by,
        saved_by: coordinator.id,
        state: 'committed',
        content: stored,
        plan: '{}',
      });
      const [version] = await trx('announcement_versions').insert({
        ...by,
        announcement_id: announcement,
        kind: 'sent',
        title: of,
        byline: 'The bench',
        importance: 'routine',
        body: stored,
        excerpt: 'The air stands.',
        category: '',
      });
      // On a board that nobody opens: these are not posts that can be read.
      const [post] = await trx('posts').insert({
        ...by,
        board_id: unread,
        version_id: version,
        idempotency_key: of,
        posted_at: new Date(),
        state: 'deleted',
      });
      await trx('hook_calls').insert({
        hook_id: id,
        message_id: of,
        outcome: 'taken',
        status: 201,
        post_id: post,
        body,
      });
      await trx('audit').insert({
        actor_id: coordinator.id,
        action: 'post',
        subject: 'board',
        subject_id: unread,
        detail: stored,
      });
      for (const kind of ['post.published', 'hook.called'])
        await trx('events').insert({ kind, version: 1, subject: of, detail: stored });
    });
  };
  for (const [turn, atOnce] of SIDE_BY_SIDE.entries()) {
    const ours = await sideBySide(POSTS, atOnce, (at) => post(turn * POSTS + at));
    const limit = await sideBySide(POSTS, atOnce, (at) => bare(turn * POSTS + at));
    const rowwise = await sideBySide(POSTS, atOnce, (at) => rowByRow(turn * POSTS + at));
    console.log(
      `${POSTS} signed messages, ${atOnce} at once, each a post: ${Math.round((POSTS * 1000) / ours)} a second; ` +
        `a bare handler that checks and inserts one row ${Math.round((POSTS * 1000) / limit)} a second: ${(ours / limit).toFixed(1)} times its time; ` +
        `one that checks and inserts the rows of a post ${Math.round((POSTS * 1000) / rowwise)} a second: ${(ours / rowwise).toFixed(1)} times; aim 1.5`,
    );
  }
  const [posts] = await rows<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM posts WHERE board_id = ?', [
    boardId,
  ]);
  console.log(`${posts?.n ?? 0} of ${POSTS * SIDE_BY_SIDE.length} are up`);
}

/** An address that answers each after so long, on a core of its own: it is told by no event loop of ours. */
class Receiver {
  readonly #worker: Worker;
  readonly url: string;
  readonly #counted: number[];

  private constructor(worker: Worker, url: string, counted: number[]) {
    this.#worker = worker;
    this.url = url;
    this.#counted = counted;
  }

  static async listening(afterMs: number): Promise<Receiver> {
    const worker = new Worker(new URL('receiver.mjs', import.meta.url), { workerData: { afterMs } });
    const [port] = (await once(worker, 'message')) as [number];
    const counted: number[] = [];
    worker.on('message', (took: number[]) => counted.push(...took));
    return new Receiver(worker, `http://127.0.0.1:${port}`, counted);
  }

  /** When each came, in milliseconds of the clock. */
  get came(): readonly number[] {
    return this.#counted;
  }

  async end(): Promise<void> {
    await this.#worker.terminate();
  }
}

async function goingOut(db: Database): Promise<void> {
  const [quick, slow] = [await Receiver.listening(0), await Receiver.listening(3_000)];
  const follower = async (name: string, url: string): Promise<number> =>
    insertHookOut(db, {
      hook: hookOutSchema.parse({ name, url: `${url}/events`, kinds: ['post.up'], boardId: null }),
      sealed: freshSecret(SECRET).sealed,
      ownerId: coordinator.id,
    });
  const ids = [await follower('Slow', slow.url), await follower('Quick', quick.url)];
  for (const hookId of ids)
    for (let at = 0; at < EVENTS; at += 500)
      await insertHandovers(
        db,
        Array.from({ length: Math.min(500, EVENTS - at) }, (_, i) => ({
          hookId,
          eventKey: `e.${at + i}`,
          kind: 'post.up',
          subject: `post:${at + i}`,
          body: JSON.stringify({
            specversion: '1.0',
            id: `e.${at + i}`,
            type: 'clear-bell.post.up',
            data: { path: '/' },
          }),
        })),
      );
  const handing = new HandingOver(
    db,
    'bench',
    { asking: { secret: SECRET, inside: [quick.url, slow.url] }, publicUrl: 'https://bell.example' },
    (error) => {
      throw error;
    },
  );
  const before = process.cpuUsage();
  const made = Date.now();
  while (quick.came.length < EVENTS) {
    await handing.turn();
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  const { user, system } = process.cpuUsage(before);
  const took = quick.came.map((atMs) => atMs - made).sort((one, other) => one - other);
  const whole = took.at(-1) ?? 0;
  await db.raw("UPDATE hooks_out SET state = 'off'");
  await handing.idle();
  await slow.end();
  const single = await bareLoop(quick.url, Math.min(EVENTS, 5_000));
  await quick.end();
  console.log(
    `${EVENTS} events for a quick address beside as many for one that takes 3 s: the quick one has 99 of 100 after ${Math.round(took[Math.floor(took.length * 0.99)] ?? 0)} ms and all after ${Math.round(whole)} ms, ` +
      `${Math.round((EVENTS * 1000) / whole)} a second, for ${((user + system) / 1e6).toFixed(1)} s of a core; a bare loop of as many requests at once ${Math.round(single)} a second; aim 5 s at the 99th`,
  );
}

/** As many requests at once to an address that answers at once, without signing or keeping account: the limit. */
async function bareLoop(url: string, n: number): Promise<number> {
  const took = await timed(async () => {
    let next = 0;
    await Promise.all(
      Array.from({ length: 32 }, async () => {
        while (next++ < n)
          await new Promise((resolve, reject) => {
            request(url, { method: 'POST' }, (response) => response.resume().on('end', resolve))
              .on('error', reject)
              .end('{}');
          });
      }),
    );
  });
  return (n * 1000) / took;
}
