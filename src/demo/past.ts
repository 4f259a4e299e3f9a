import { mayUnsubscribe, type Plan } from '../core/plan/plan.ts';
import type { PlannedBucket } from '../core/plan/buckets.ts';
import type { isIn } from '../server/audience/store.ts';
import { change, type Database } from '../server/database/connection.ts';
import type { Item } from './texts.ts';

const HOUR_MS = 3_600_000;

export interface Past {
  occurrenceId: number;
  versionId: number;
  author: number;
  plan: Plan;
  item: Pick<Item, 'importance' | 'answered'>;
  buckets: PlannedBucket[];
  nowMs: number;
  who: ReturnType<typeof isIn> | null;
}

/** What became of what has gone: a number in [0, 1) for each person that is the same at every start. */
export async function layPast(db: Database, past: Past): Promise<void> {
  const { occurrenceId, plan, item, nowMs, who } = past;
  const gone = past.buckets.filter((bucket) => bucket.dueMs <= nowMs);
  const last = gone.at(-1);
  if (!last) return;
  const all = gone.length === past.buckets.length;
  const lastDue = new Date(last.dueMs);
  const chance = (salt: string): string =>
    `(CRC32(CONCAT('${salt}', ${occurrenceId}, '-', p.id)) / 4294967296)`;
  const later = (factor: string): string => `d.due_at + INTERVAL ROUND(${factor}) MICROSECOND`;
  await change(
    db,
    "UPDATE buckets SET state = 'expanded', attempts = 1 WHERE occurrence_id = ? AND due_at <= ?",
    [occurrenceId, new Date(nowMs)],
  );
  await change(
    db,
    'UPDATE occurrences SET state = ?, sent_at = IF(?, ? + INTERVAL 3 SECOND, NULL) WHERE id = ?',
    [all ? 'sent' : 'going out', all, lastDue, occurrenceId],
  );
  if (all)
    for (const board of plan.boards)
      await db('posts').insert({
        board_id: board,
        version_id: past.versionId,
        occurrence_id: occurrenceId,
        author_id: past.author,
        posted_at: new Date(last.dueMs + 40),
      });
  if (!who) return;
  const due = `CASE ${gone.map(() => "WHEN ? IN ('', p.zone) THEN CAST(? AS DATETIME(3))").join(' ')} END`;
  const dueBindings = gone.flatMap((bucket) => [bucket.zone, new Date(bucket.dueMs)]);
  await change(
    db,
    `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at, read_at)
     SELECT ?, p.id, 'inbox', 'delivered', d.due_at, ${later(`(30 + 60 * ${chance('i')}) * 1000`)},
       IF(${chance('r')} < 0.8, LEAST(?, ${later(`60000000 + 90000000000 * POW(${chance('q')}, 4)`)}), NULL)
     FROM people p JOIN (SELECT p.id, ${due} AS due_at FROM people p) d ON d.id = p.id
     WHERE d.due_at IS NOT NULL AND p.joined_on <= d.due_at AND ${who.sql}`,
    [occurrenceId, new Date(nowMs), ...dueBindings, ...who.bindings],
  );
  if (plan.mail) {
    const stoppable = mayUnsubscribe(item.importance ?? 'routine', plan.ask);
    // The address that no longer exists stopped working nine days ago.
    const recent = nowMs - last.dueMs < 9 * 24 * HOUR_MS;
    const refused = `(p.mail LIKE 'refused.%' AND ${recent ? 'TRUE' : 'FALSE'})`;
    await change(
      db,
      `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at, attempts, reason)
       SELECT ?, p.id, 'mail', IF(${refused}, 'failed', 'delivered'), d.due_at,
         IF(${refused}, NULL, ${later(`(150 + 2400 * ${chance('m')}) * 1000`)}), 1,
         IF(${refused}, 'The mail server said: 550 No such mailbox here', NULL)
       FROM deliveries d JOIN people p ON p.id = d.person_id
       WHERE d.occurrence_id = ? AND d.method = 'inbox' AND p.mail IS NOT NULL
         ${stoppable ? 'AND p.mail_stopped_at IS NULL' : ''}`,
      [occurrenceId, occurrenceId],
    );
  }
  if (plan.ask.kind === 'nothing') return;
  const spanS = Math.max(60, Math.min(nowMs - last.dueMs, 40 * HOUR_MS) / 1000);
  const answers = `${chance('a')} < ${item.answered ?? 0.5}`;
  await change(
    db,
    `INSERT INTO roll (occurrence_id, person_id, answered_at, via)
     SELECT ?, p.id, IF(${answers}, ${later(`${spanS} * 1000000 * POW(${chance('t')}, 3)`)}, NULL),
       IF(${answers}, IF(${chance('v')} < 0.4 AND p.mail IS NOT NULL, 'mail', 'page'), NULL)
     FROM deliveries d JOIN people p ON p.id = d.person_id WHERE d.occurrence_id = ? AND d.method = 'inbox'`,
    [occurrenceId, occurrenceId],
  );
}
