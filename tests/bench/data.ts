import { pino } from 'pino';
import { Engine } from '../../src/server/engine/engine.ts';
import { EngineFigures } from '../../src/server/metrics.ts';
import { until } from '../../scripts/house/processes.ts';
import { percentile } from '../../src/core/delivery/lateness.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import { EMPTY_PLAN, type Plan } from '../../src/core/plan/plan.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { insertOrganisation } from '../../src/server/people/store.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';

export const coordinator: Actor = { id: 1, role: 'coordinator', moderates: new Set(), mayReach: new Set() };

/** A generated organisation of any size: the first person coordinates, a tenth have no mail address. */
export async function layPeople(db: Database, n: number): Promise<void> {
  await migrate(db);
  await insertOrganisation(db, { name: 'Generated Network', zone: 'UTC', demo: false, quiet: null });
  await db('stations').insert([{ id: 1, name: 'Generated', zone: 'UTC' }]);
  await layMorePeople(db, 0, n);
}

/** More people, after so many there are, until there are so many. */
export async function layMorePeople(db: Database, from: number, to: number): Promise<void> {
  await db.raw(
    `INSERT INTO people (id, name, mail, role, station_id, occupation, zone, joined_on)
     SELECT seq, CONCAT('Person ', LPAD(seq, 6, '0')), IF(seq % 10 = 9, NULL, CONCAT('p', seq, '@bench.example')),
       IF(seq = 1, 'coordinator', 'member'), 1, IF(seq % 2, 'driver', 'curator'), 'UTC', '2024-01-01'
     FROM seq_${Math.trunc(from) + 1}_to_${Math.trunc(to)}`,
  );
}

/** A board of news that everybody sees. */
export const layBoard = (db: Database): Promise<number> =>
  insertBoard(db, { name: 'News', about: 'News.', groupId: null, ...PRESETS.news.switches });

/** Waits for something that a figure rests on; where it does not come there is no figure. */
export async function mustCome(
  what: string,
  holds: () => Promise<boolean> | boolean,
  timeoutMs: number,
): Promise<void> {
  if (!(await until(holds, timeoutMs))) throw new Error(`Not seen within ${timeoutMs / 1000} s: ${what}`);
}

let keys = 0;

/** Confirms a send; gives its occurrence. It is due when its hold is over, unless it is moved. */
export async function send(db: Database, part: Partial<Plan>): Promise<number> {
  const plan: Plan = { ...EMPTY_PLAN, audience: { kind: 'everyone' }, mail: false, ...part };
  const words = 'Take the ridge road and allow forty minutes more. '.repeat(8);
  const id = await insertAnnouncement(
    db,
    1,
    simpleContent('Road closed below Kestrel Gorge', {
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }],
    }),
    plan,
    'draft',
  );
  return (await confirmSend(db, coordinator, id, { revision: 1 }, `bench-key-${++keys}`)).occurrenceId;
}

/** Makes occurrences due at one instant, in milliseconds since 1970. */
export async function dueAtInstant(db: Database, occurrences: number[], ms: number): Promise<void> {
  const due = new Date(ms);
  await db('buckets').whereIn('occurrence_id', occurrences).update({ due_at: due });
  await db('occurrences').whereIn('id', occurrences).update({ due_at: due, ends_at: due });
}

export const now = databaseNow;

export async function one<T>(db: Database, sql: string, bindings: unknown[] = []): Promise<T> {
  const [row] = await rows<T>(db, sql, bindings);
  if (!row) throw new Error(`Nothing came of ${sql}`);
  return row;
}

export const median = (values: number[]): number => percentile(values, 0.5) ?? Number.NaN;

/** Milliseconds that work takes. */
export async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

export const seconds = (ms: number): string => `${(ms / 1000).toFixed(2)} s`;

/** An engine whose mail and push are taken at once by nobody. */
export const benchEngine = (db: Database): Engine =>
  new Engine(db, pino({ level: 'silent' }), new EngineFigures(), {
    push: { send: () => Promise.resolve({ kind: 'taken' }) },
    transport: { send: () => Promise.resolve(), close: () => undefined },
    secret: 'the bench needs a secret of 32 characters',
    publicUrl: 'http://bench.example',
    connections: 1,
    bucketLeaseS: 30,
    mailLeaseS: 60,
  });
