import { setTimeout as wait } from 'node:timers/promises';
import { request } from 'undici';
import { z } from 'zod';
import { until } from '../../scripts/house/processes.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { dueAtInstant, now, send } from '../bench/data.ts';
import type { Fault, Random } from './faults.ts';
import type { House, Taken } from './house.ts';

/** What came of one round. Times are in milliseconds from when the send was due. */
export const accountSchema = z.strictObject({
  fault: z.string(),
  round: z.number(),
  what: z.string(),
  struckAfterMs: z.number(),
  /** Until everything was delivered and nothing was left to do. */
  settledAfterMs: z.number().nullable(),
  people: z.number(),
  inbox: z.number(),
  withMail: z.number(),
  /** Recipients the mail server has a letter for, and those it has more than one for. */
  mailed: z.number(),
  twice: z.number(),
  /** Of those that came twice, how many were not on the wire when it struck, or came under another Message-ID. */
  unexplained: z.number(),
  /** Answers that were confirmed to a reader, and how many of these are not there. */
  confirmed: z.number(),
  lost: z.number(),
  /** Answers that no web took, however often they were given. */
  refused: z.number(),
  stuck: z.array(z.string()),
});
export type Account = z.infer<typeof accountSchema>;

/** What was taken so long before an engine was killed may not have been recorded yet, and what it had sent may be taken so long after. */
const ON_THE_WIRE_MS = 1_000;
const SETTLED_WITHIN_MS = 300_000;

/** A statement that is asked again where the database is just changing hands. */
async function surely<T>(work: () => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt++)
    try {
      return await work();
    } catch (error) {
      if (attempt >= 60) throw error;
      await wait(500);
    }
}

/** Gives an answer as a reader does, who tries again where it is not confirmed. */
async function answer(house: House, occurrence: number, cookie: string, first: number): Promise<boolean> {
  for (let attempt = 0; attempt < 40; attempt++) {
    const origin = house.origins[(first + attempt) % house.origins.length] ?? '';
    // Kept by its own timer: what only a signal of `AbortSignal.timeout` holds may be collected, and is then waited for in vain.
    const tooLong = new AbortController();
    const timer = setTimeout(() => tooLong.abort(), 30_000);
    try {
      const { statusCode, body } = await request(`${origin}/api/asks/${occurrence}/answer`, {
        method: 'POST',
        headers: { cookie, origin, 'content-type': 'application/json' },
        body: '{}',
        signal: tooLong.signal,
      });
      await body.dump();
      if (statusCode === 200) return true;
    } catch {
      // Not confirmed.
    } finally {
      clearTimeout(timer);
    }
    await wait(250 + 50 * attempt);
  }
  return false;
}

async function leftOver(db: Database, occurrence: number): Promise<string[]> {
  const found = await surely(() =>
    rows<{ what: string }>(
      db,
      `SELECT CONCAT('bucket ', state) AS what FROM buckets WHERE occurrence_id = ? AND state NOT IN ('expanded', 'skipped')
       UNION ALL SELECT CONCAT(COUNT(*), ' deliveries ', method, ' ', state) FROM deliveries
         WHERE occurrence_id = ? AND state <> 'delivered' GROUP BY method, state`,
      [occurrence, occurrence],
    ),
  );
  return found.map(({ what }) => what);
}

/** The mail addresses of those a send is for. */
const addressOf = (id: number): string => `p${id}@bench.example`;

/**
 * A send with mail, with answers coming in, something that goes wrong in its middle, and what came of it in the end.
 *
 * @param cookies sessions of those who answer, by person
 */
export async function round(
  house: House,
  db: Database,
  given: {
    fault: Fault;
    round: number;
    random: Random;
    groupId: number;
    people: readonly number[];
    cookies: ReadonlyMap<number, string>;
  },
): Promise<Account> {
  const { fault, random, people, cookies } = given;
  house.sink.taken.clear();
  const struckAfterMs = fault.before ? 0 : Math.round(500 + random() * 6_000);
  const early = fault.before ? await fault.strike(house, random) : undefined;
  const occurrence = await surely(() =>
    send(db, { audience: { kind: 'group', id: given.groupId }, mail: true, ask: acknowledgement() }),
  );
  const dueMs = (await surely(() => now(db))) + 1_500;
  await surely(() => dueAtInstant(db, [occurrence], dueMs));
  const began = Date.now() + 1_500;
  const answering = (async (): Promise<{ confirmed: number[]; refused: number }> => {
    await wait(2_500);
    const confirmed: number[] = [];
    let refused = 0;
    await Promise.all(
      [...cookies].map(async ([id, cookie], at) => {
        await wait(at * 5);
        if (await answer(house, occurrence, cookie, at)) confirmed.push(id);
        else refused++;
      }),
    );
    return { confirmed, refused };
  })();
  let struck = early;
  let struckMs = began;
  if (!struck) {
    await wait(Math.max(0, began + struckAfterMs - Date.now()));
    struckMs = Date.now();
    struck = await fault.strike(house, random);
  }
  if (!fault.before) await struck.end();
  const { confirmed, refused } = await answering;
  const settled = await until(async () => (await leftOver(db, occurrence)).length === 0, SETTLED_WITHIN_MS);
  const settledAfterMs = settled ? Date.now() - began : null;
  if (fault.before) await struck.end();
  const [inbox] = await surely(() =>
    rows<{ n: number }>(
      db,
      "SELECT COUNT(DISTINCT person_id) AS n FROM deliveries WHERE occurrence_id = ? AND method = 'inbox' AND state = 'delivered'",
      [occurrence],
    ),
  );
  const rolled = new Set(
    (
      await surely(() =>
        rows<{ id: number }>(
          db,
          'SELECT person_id AS id FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL',
          [occurrence],
        ),
      )
    ).map(({ id }) => id),
  );
  const withMail = people.filter((id) => id % 10 !== 9);
  const taken = withMail.flatMap((id): Taken[][] => {
    const letters = house.sink.taken.get(addressOf(id));
    return letters ? [letters] : [];
  });
  const twice = taken.filter((letters) => letters.length > 1);
  const explained = ([first, ...more]: Taken[]): boolean =>
    first !== undefined &&
    first.messageId !== '' &&
    more.every(({ messageId }) => messageId === first.messageId) &&
    // What an engine that lives has handed over it knows, whatever is away.
    fault.name === 'engine' &&
    Math.abs(first.atMs - struckMs) <= ON_THE_WIRE_MS;
  return {
    fault: fault.name,
    round: given.round,
    what: struck.what,
    struckAfterMs: Math.round(struckMs - began),
    settledAfterMs,
    people: people.length,
    inbox: inbox?.n ?? 0,
    withMail: withMail.length,
    mailed: taken.length,
    twice: twice.length,
    unexplained: twice.filter((letters) => !explained(letters)).length,
    confirmed: confirmed.length,
    lost: confirmed.filter((id) => !rolled.has(id)).length,
    refused,
    stuck: settled ? [] : await leftOver(db, occurrence),
  };
}

/** Whether a round went as it must. */
export const isRight = (of: Account): boolean =>
  of.settledAfterMs !== null &&
  of.inbox === of.people &&
  of.mailed === of.withMail &&
  of.unexplained === 0 &&
  of.lost === 0;
