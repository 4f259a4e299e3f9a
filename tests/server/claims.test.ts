import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { LEFT_MS } from '../../src/server/database/claims.ts';
import { claimLetterRows, concludeLetterRow } from '../../src/server/database/letterClaims.ts';
import { claimMail, recordMailOutcome } from '../../src/server/engine/mailStore.ts';
import { MailOutcomes } from '../../src/server/engine/mailOutcomes.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, freshDatabase, sendNow } from './world.ts';

/** Every tenth of those who are added has no mail. */
const MAILS = 18;

let db: Database;
let group: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('ended_claims'));
  group = await addGroup(db, 'Called', await addPeople(db, 20));
});
afterAll(() => db.destroy());

const claim = (engine: string) => claimMail(db, { engine, seconds: 60 }, 100);
/** As after a pause of the whole machine, longer than any claim: the clock of the database is further on, and all are ended. */
const pause = () =>
  db.raw(
    "UPDATE deliveries SET try_at = NOW(3) - INTERVAL 1 SECOND WHERE state = 'sending' AND method = 'mail'",
  );
/** Longer than a claim that ended is left alone, with time for a slow machine's timers. */
const leave = () => wait(LEFT_MS + 1_000);

async function dueMail(): Promise<number> {
  const occurrence = await sendNow(db, {
    audience: { kind: 'any', of: [{ kind: 'group', id: group }] },
    mail: true,
  });
  await expandNow(db, occurrence);
  return occurrence;
}
const deliveries = (occurrence: number) =>
  rows<{ state: string; attempts: number; n: number }>(
    db,
    `SELECT state, attempts, COUNT(*) AS n FROM deliveries WHERE occurrence_id = ? AND method = 'mail' GROUP BY state, attempts`,
    [occurrence],
  );

it('mail whose claim ended in a pause of the machine is left to the engine that handed it over, and goes once', async () => {
  const occurrence = await dueMail();
  const taken = await claim('one');
  expect(taken).toHaveLength(MAILS);
  await pause();
  expect(await claim('two')).toEqual([]);
  await recordMailOutcome(db, 'one', taken, { state: 'delivered' });
  await leave();
  expect(await claim('two')).toEqual([]);
  expect(await deliveries(occurrence)).toEqual([{ state: 'delivered', attempts: 1, n: MAILS }]);
});

it('mail of an engine that died is taken over some seconds after its claim ended, and what it says later counts no more', async () => {
  const occurrence = await dueMail();
  const taken = await claim('dead');
  await pause();
  expect(await claim('heir')).toEqual([]);
  await leave();
  expect(await claim('heir')).toHaveLength(MAILS);
  await recordMailOutcome(db, 'dead', taken, { state: 'delivered' });
  expect(await deliveries(occurrence)).toEqual([{ state: 'sending', attempts: 2, n: MAILS }]);
  // The heir is paused in its turn: its claims are not taken over by what was seen of the one before.
  await pause();
  expect(await claim('third')).toEqual([]);
  await recordMailOutcome(db, 'heir', taken, { state: 'delivered' });
  expect(await deliveries(occurrence)).toEqual([{ state: 'delivered', attempts: 2, n: MAILS }]);
});

it('waiting mail is claimed at once beside claims that have ended', async () => {
  await dueMail();
  await claim('paused');
  await pause();
  const later = await dueMail();
  const claimed = await claim('awake');
  expect(new Set(claimed.map((row) => row.occurrenceId))).toEqual(new Set([later]));
  expect(claimed).toHaveLength(MAILS);
});

it('a letter whose claim ended is left alone for as long, and then goes to one', async () => {
  const [person] = await rows<{ id: number }>(db, 'SELECT MIN(id) AS id FROM people');
  await db.raw(
    "INSERT INTO access_letters (person_id, kind, expires_at) VALUES (?, 'invitation', NOW(3) + INTERVAL 1 DAY)",
    [person?.id ?? 0],
  );
  const take = (name: string) =>
    claimLetterRows(db, 'access_letters', { claim: name.padEnd(16), seconds: 60, most: 10 });
  const [id = 0] = await take('one');
  await db.raw('UPDATE access_letters SET try_at = NOW(3) - INTERVAL 1 SECOND WHERE id = ?', [id]);
  expect(await take('two')).toEqual([]);
  await leave();
  expect(await take('two')).toEqual([id]);
  await concludeLetterRow(db, 'access_letters', { id, claim: 'one'.padEnd(16), outcome: { state: 'sent' } });
  expect(await rows(db, 'SELECT state FROM access_letters WHERE id = ?', [id])).toEqual([
    { state: 'sending' },
  ]);
});

it('what a mail server took is held in small numbers while it cannot be written, and handing over waits for that', async () => {
  const many = await addGroup(db, 'Many', await addPeople(db, 600));
  const occurrence = await sendNow(db, {
    audience: { kind: 'any', of: [{ kind: 'group', id: many }] },
    mail: true,
  });
  await expandNow(db, occurrence);
  const claimed = (await claimMail(db, { engine: 'busy', seconds: 60 }, 1_000)).filter(
    (row) => row.occurrenceId === occurrence,
  );
  expect(claimed.length).toBeGreaterThan(2 * MailOutcomes.most + 100);
  const slow = await db.transaction();
  await slow.raw('SELECT person_id FROM deliveries WHERE occurrence_id = ? FOR UPDATE', [occurrence]);
  const settled = new MailOutcomes(db, 'busy');
  let handed = 0;
  const handing = (async () => {
    for (const row of claimed) {
      await settled.room();
      settled.add(row, { state: 'delivered' });
      handed++;
    }
    await settled.end();
  })();
  await wait(1_000);
  // Those in the statement that waits, and as many gathered for the next.
  expect(handed).toBe(2 * MailOutcomes.most);
  await slow.commit();
  await handing;
  expect(handed).toBe(claimed.length);
  expect(await deliveries(occurrence)).toEqual([{ state: 'delivered', attempts: 1, n: claimed.length }]);
});

it.each([
  ['its disk is full', 1021],
  ['a table of it is full', 1114],
  ['an index of it is damaged', 1034],
])('what a mail server took is held while the database cannot write it down: %s', async (why, errno) => {
  const occurrence = await dueMail();
  const taken = (await claim('held')).filter((row) => row.occurrenceId === occurrence);
  await db.raw(
    `CREATE TRIGGER cannot BEFORE UPDATE ON deliveries FOR EACH ROW SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = ${errno}, MESSAGE_TEXT = '${why}'`,
  );
  const settled = new MailOutcomes(db, 'held');
  for (const row of taken) settled.add(row, { state: 'delivered' });
  let ended = false;
  const end = settled.end().then(() => (ended = true));
  await wait(1_500);
  expect(ended).toBe(false);
  await db.raw('DROP TRIGGER cannot');
  await end;
  expect(await deliveries(occurrence)).toEqual([{ state: 'delivered', attempts: 1, n: MAILS }]);
});
