import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { pino } from 'pino';
import { inject } from 'vitest';
import { createDatabase } from '../../scripts/house/mariadb.ts';
import { freePort } from '../../scripts/house/ports.ts';
import { until } from '../../scripts/house/processes.ts';
import { audienceOf, groupsForm } from '../../src/core/audience/form.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import { EMPTY_CONTENT, type Content } from '../../src/core/content/announcement.ts';
import { plainSection } from '../../src/core/content/section.ts';
import { EMPTY_PLAN, type Plan } from '../../src/core/plan/plan.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { connect, rows, transact, type Database } from '../../src/server/database/connection.ts';
import { CONSUMERS } from '../../src/server/events/consumers.ts';
import { followEvents } from '../../src/server/events/follow.ts';
import { loadDemo } from '../../src/demo/load.ts';
import { Engine, type EngineOptions } from '../../src/server/engine/engine.ts';
import { mailTransport } from '../../src/server/mail/transport.ts';
import type { CameIn } from '../../src/server/accounts/opening.ts';
import { EngineFigures } from '../../src/server/metrics.ts';
import { insertOrganisation } from '../../src/server/people/store.ts';
import { vapidKeys } from '../../src/server/push/keys.ts';
import { pushTransport } from '../../src/server/push/transport.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import type { HandOn } from '../../src/standins/mail/sending.ts';
import { startMailStandIn } from '../../src/standins/mail/server.ts';
import { Problem } from '../../src/server/problem.ts';
import { layOutFrom, statementsOf } from './copies.ts';

export const SECRET = 'a secret that only the tests know, 32 or more';

export const coordinator: Actor = { id: 1, role: 'coordinator', moderates: new Set(), mayReach: new Set() };

/** A database of a test file's own, laid out and with one coordinator in it. */
export async function freshDatabase(name: string): Promise<{ db: Database; url: string }> {
  const url = inject('databaseServer').replace('DATABASE', `clear_bell_test_${name}`);
  await createDatabase(url, true);
  await layOutFrom(url, readFileSync(inject('layout'), 'utf8'));
  const db = connect(url, 12);
  await addOrganisation(db);
  return { db, url };
}

/** A database of its own with the demo organisation in it, loaded now. */
export async function demoDatabase(name: string): Promise<{ db: Database; url: string }> {
  const url = inject('databaseServer').replace('DATABASE', `clear_bell_test_${name}`);
  await createDatabase(url, true);
  await layOutFrom(url, readFileSync(inject('layout'), 'utf8'));
  const db = connect(url, 8);
  await loadDemo(db, SECRET);
  return { db, url };
}

/** A database of its own with the demo organisation in it, as it was loaded by the first file that asked for it. */
export async function copiedDemo(name: string): Promise<{ db: Database; url: string }> {
  const kept = inject('demo');
  if (!existsSync(kept)) {
    const loaded = await demoDatabase(name);
    // Two files may come here at once: whole is whichever is there.
    const own = `${kept}.${process.pid}-${name}`;
    writeFileSync(own, statementsOf(loaded.url));
    renameSync(own, kept);
    return loaded;
  }
  const url = inject('databaseServer').replace('DATABASE', `clear_bell_test_${name}`);
  await createDatabase(url, true);
  await layOutFrom(url, readFileSync(kept, 'utf8'));
  return { db: connect(url, 8), url };
}

/** The organisation of the tests, of two stations and one coordinator. */
export async function addOrganisation(db: Database): Promise<void> {
  await insertOrganisation(db, { name: 'Test Network', zone: 'UTC', demo: false, quiet: null });
  await db('stations').insert([
    { id: 1, name: 'North', zone: 'Europe/London' },
    { id: 2, name: 'South', zone: 'Pacific/Auckland' },
  ]);
  await db('people').insert({
    id: 1,
    name: 'Maud Fenwright',
    mail: 'maud@test.example',
    role: 'coordinator',
    zone: 'UTC',
    joined_on: '2020-01-01',
  });
}

/** Adds members, every tenth without a mail address; gives their ids. */
export async function addPeople(db: Database, n: number, stationId: 1 | 2 = 1): Promise<number[]> {
  const [last] = await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM people');
  const first = (last?.id ?? 0) + 1;
  const people = Array.from({ length: n }, (_, i) => ({
    id: first + i,
    name: `Person ${String(first + i).padStart(5, '0')}`,
    mail: i % 10 === 9 ? null : `person${first + i}@test.example`,
    station_id: stationId,
    occupation: i % 2 === 0 ? 'driver' : 'curator',
    zone: stationId === 1 ? 'Europe/London' : 'Pacific/Auckland',
    joined_on: '2024-01-01',
  }));
  for (let i = 0; i < n; i += 1000) await db('people').insert(people.slice(i, i + 1000));
  return people.map((person) => person.id);
}

export async function addGroup(db: Database, name: string, of: number[] | Audience): Promise<number> {
  const fixed = Array.isArray(of);
  const [id = 0] = await db('groups').insert({
    name,
    kind: fixed ? 'fixed' : 'live',
    rule: fixed ? null : JSON.stringify(of),
  });
  if (fixed && of.length > 0)
    await db('group_members').insert(of.map((person) => ({ group_id: id, person_id: person })));
  return id;
}

export const toGroups = (include: number[], exclude: number[] = []): Audience | null =>
  audienceOf(groupsForm(include, exclude));

export const content = (part: Partial<Content> = {}): Content => ({
  ...EMPTY_CONTENT,
  title: 'Road closed',
  sections: [
    plainSection({
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Take the ridge road.' }] }],
    }),
  ],
  ...part,
});

export const plan = (part: Partial<Plan> = {}): Plan => ({
  ...EMPTY_PLAN,
  audience: { kind: 'everyone' },
  ...part,
});

let keys = 0;

/** Writes, confirms, and makes due at once: gives the occurrence's id. */
export async function sendNow(
  db: Database,
  planPart: Partial<Plan>,
  contentPart: Partial<Content> = {},
): Promise<number> {
  const id = await insertAnnouncement(db, coordinator.id, content(contentPart), plan(planPart), 'draft');
  const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, `test-key-${++keys}`);
  await makeDue(db, occurrenceId);
  return occurrenceId;
}

/** Ends the hold of an occurrence now. */
export async function makeDue(db: Database, occurrenceId: number): Promise<void> {
  // An engine that runs beside it may hold one of the rows and want the other: it is then tried again.
  await transact(db, (trx) =>
    trx.raw(
      `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id
       SET b.due_at = NOW(3), o.due_at = NOW(3), o.ends_at = NOW(3) WHERE o.id = ?`,
      [occurrenceId],
    ),
  );
}

export interface MailHouse {
  url: string;
  mood: (mood: 'well' | 'slow' | 'busy' | 'refusing' | 'down') => Promise<void>;
  receipts: () => Promise<{ to: string; messageId: string }[]>;
  mails: () => Promise<
    {
      id: number;
      to: string;
      subject: string;
      text: string;
      html: string;
      raw: string;
      messageId: string;
      replyTo?: string;
    }[]
  >;
  /** Lets a mail come back; gives what was answered to the report of it. */
  comeBack: (id: number) => Promise<string>;
  stop: () => Promise<void>;
}

/** The mail stand-in on ports of its own. */
export async function mailHouse(handOn?: HandOn): Promise<MailHouse> {
  const smtpPort = await freePort();
  const webPort = await freePort();
  const standIn = await startMailStandIn({ smtpPort, webPort, ...(handOn ? { handOn } : {}) });
  const web = `http://127.0.0.1:${webPort}`;
  return {
    url: `smtp://127.0.0.1:${smtpPort}`,
    mood: async (mood) => {
      await fetch(`${web}/mood/${mood}`, { method: 'POST', redirect: 'manual' });
    },
    receipts: async () =>
      (await (await fetch(`${web}/api/receipts`)).json()) as { to: string; messageId: string }[],
    mails: async () => ((await (await fetch(`${web}/api/mails?most=500`)).json()) as { mails: never }).mails,
    comeBack: async (id) => (await fetch(`${web}/mail/${id}/come-back`, { method: 'POST' })).text(),
    stop: standIn.stop,
  };
}

/** An engine in this process. */
export async function startEngine(
  db: Database,
  mailUrl: string,
  part: Partial<EngineOptions> = {},
  figures = new EngineFigures(),
): Promise<Engine> {
  const engine = new Engine(db, pino({ level: 'silent' }), figures, {
    transport: mailTransport(mailUrl, 'desk@test.example', 4),
    push: pushTransport(vapidKeys(SECRET), 'mailto:desk@test.example', null),
    secret: SECRET,
    publicUrl: 'http://bell.test',
    connections: 4,
    bucketLeaseS: 2,
    mailLeaseS: 6,
    ...part,
  });
  await engine.start();
  return engine;
}

export async function stateOf(db: Database, occurrenceId: number): Promise<string | undefined> {
  const [row] = await rows<{ state: string }>(db, 'SELECT state FROM occurrences WHERE id = ?', [
    occurrenceId,
  ]);
  return row?.state;
}

/** Waits until an occurrence is in a state; fails with the state it is stuck in. */
export async function reaches(
  db: Database,
  occurrenceId: number,
  state: string,
  timeoutMs = 30_000,
): Promise<void> {
  if (await until(async () => (await stateOf(db, occurrenceId)) === state, timeoutMs)) return;
  throw new Error(`Occurrence ${occurrenceId} is ${await stateOf(db, occurrenceId)}, not ${state}`);
}

export async function countOf(db: Database, sql: string, bindings: unknown[] = []): Promise<number> {
  const [row] = await rows<{ n: number | string }>(db, `SELECT COUNT(*) AS n ${sql}`, bindings);
  return Number(row?.n);
}

/** Where in the whole database a text stands, as table.column. */
export async function whereIs(db: Database, text: string): Promise<string[]> {
  const columns = await rows<{ t: string; c: string }>(
    db,
    `SELECT table_name AS t, column_name AS c FROM information_schema.columns
     WHERE table_schema = DATABASE() AND data_type IN ('varchar', 'char', 'text', 'mediumtext', 'longtext', 'json')`,
  );
  const found: string[] = [];
  for (const { t, c } of columns) {
    const [row] = await rows<{ n: number }>(
      db,
      `SELECT COUNT(*) AS n FROM \`${t}\` WHERE LOWER(CAST(\`${c}\` AS CHAR)) LIKE ?`,
      [`%${text.toLowerCase()}%`],
    );
    if ((row?.n ?? 0) > 0) found.push(`${t}.${c}`);
  }
  return found;
}

/** Follows up everything that happened, as an engine does within a moment; what cannot be followed up is an error. */
export async function followAll(db: Database): Promise<void> {
  const failed = (error: unknown): never => {
    throw error;
  };
  while ((await followEvents(db, CONSUMERS, failed)) > 0);
}

/** The token of the session somebody came in with; fails where a second step is asked for. */
export function sessionIn(came: CameIn): string {
  if ('session' in came) return came.session;
  throw new Error('A second step is asked for.');
}

/** The refusal that some work is met with; fails where it is not refused. */
export async function refusal(work: Promise<unknown>): Promise<Problem> {
  const error = await work.then(
    () => undefined,
    (thrown: unknown) => thrown,
  );
  if (error instanceof Problem) return error;
  throw new Error(`It was not refused: ${String(error)}`);
}
