import type { CheckInAnswers, Said } from '../../../core/asks/check-in/checkIn.ts';
import type { CheckInReply } from '../../../core/asks/check-in/checkInPage.ts';
import { change, isDuplicate, rows, type Database } from '../../database/connection.ts';
import { ms } from '../../database/instant.ts';

/** Writes what somebody says in a check-in, in the place of what they had said. */
export async function saveCheckIns(
  db: Database,
  occurrenceId: number,
  said: readonly { personId: number; answers: CheckInAnswers; blocked: boolean }[],
): Promise<void> {
  if (said.length === 0) return;
  await change(
    db,
    `INSERT INTO check_ins (occurrence_id, person_id, answered_at, blocked) VALUES ${said.map(() => '(?, ?, NOW(3), ?)').join(', ')}
     ON DUPLICATE KEY UPDATE blocked = VALUES(blocked)`,
    said.flatMap(({ personId, blocked }) => [occurrenceId, personId, blocked]),
  );
  await change(
    db,
    `DELETE FROM check_in_answers WHERE occurrence_id = ? AND person_id IN (${said.map(() => '?').join(', ')})`,
    [occurrenceId, ...said.map(({ personId }) => personId)],
  );
  const given = said.flatMap(({ personId, answers }) =>
    Object.entries(answers).map(([question, text]) => ({
      occurrence_id: occurrenceId,
      person_id: personId,
      question: Number(question),
      text,
    })),
  );
  if (given.length > 0) await db('check_in_answers').insert(given);
}

/** What somebody said in a check-in, with its own number; nothing where they said nothing. */
export async function checkInOf(
  db: Database,
  occurrenceId: number,
  personId: number,
): Promise<{ id: number; name: string; answeredMs: number; texts: string[] } | undefined> {
  const [[row], given] = await Promise.all([
    rows<{ id: number; name: string; answeredMs: number }>(
      db,
      `SELECT c.id, p.shown_name AS name, ${ms('c.answered_at')} AS answeredMs FROM check_ins c JOIN people p ON p.id = c.person_id
       WHERE c.occurrence_id = ? AND c.person_id = ?`,
      [occurrenceId, personId],
    ),
    rows<{ text: string }>(
      db,
      'SELECT text FROM check_in_answers WHERE occurrence_id = ? AND person_id = ? ORDER BY question',
      [occurrenceId, personId],
    ),
  ]);
  return row && { ...row, texts: given.map((each) => each.text) };
}

interface SaidRow {
  occurrenceId: number;
  personId: number;
  name: string;
  station: string | null;
  answeredMs: number;
  blocked: number;
  unblockedMs: number | null;
  unblockedBy: string | null;
  replies: number;
}

const SAID = `SELECT c.occurrence_id AS occurrenceId, c.person_id AS personId, p.shown_name AS name, s.name AS station,
    ${ms('c.answered_at')} AS answeredMs, c.blocked, ${ms('c.unblocked_at')} AS unblockedMs, u.name AS unblockedBy,
    (SELECT COUNT(*) FROM check_in_replies r WHERE r.occurrence_id = c.occurrence_id AND r.person_id = c.person_id) AS replies
  FROM check_ins c JOIN people p ON p.id = c.person_id LEFT JOIN stations s ON s.id = p.station_id
    LEFT JOIN people u ON u.id = c.unblocked_by`;

async function withAnswers(
  db: Database,
  found: readonly SaidRow[],
): Promise<(Said & { occurrenceId: number })[]> {
  if (found.length === 0) return [];
  const given = await rows<{ occurrenceId: number; personId: number; question: number; text: string }>(
    db,
    `SELECT occurrence_id AS occurrenceId, person_id AS personId, question, text FROM check_in_answers
     WHERE (occurrence_id, person_id) IN (${found.map(() => '(?, ?)').join(', ')})`,
    found.flatMap((row) => [row.occurrenceId, row.personId]),
  );
  const answers = new Map<string, CheckInAnswers>();
  for (const { occurrenceId, personId, question, text } of given) {
    const key = `${occurrenceId}.${personId}`;
    answers.set(key, { ...answers.get(key), [question]: text });
  }
  return found.map(({ unblockedMs, unblockedBy, ...row }) => ({
    ...row,
    blocked: row.blocked === 1,
    unblocked: unblockedMs === null ? null : { by: unblockedBy ?? '', atMs: unblockedMs },
    answers: answers.get(`${row.occurrenceId}.${row.personId}`) ?? {},
  }));
}

/** What everybody said in one check-in, by name; at most so many. */
export async function saidIn(db: Database, occurrenceId: number, most: number): Promise<Said[]> {
  return withAnswers(
    db,
    await rows<SaidRow>(db, `${SAID} WHERE c.occurrence_id = ? ORDER BY p.name, p.id LIMIT ?`, [
      occurrenceId,
      most,
    ]),
  );
}

/** What one person said in a check-in. */
export async function saidBy(
  db: Database,
  occurrenceId: number,
  personId: number,
): Promise<Said | undefined> {
  const [said] = await withAnswers(
    db,
    await rows<SaidRow>(db, `${SAID} WHERE c.occurrence_id = ? AND c.person_id = ?`, [
      occurrenceId,
      personId,
    ]),
  );
  return said;
}

/** What somebody said the last time they were asked by the same send. */
export async function saidBefore(
  db: Database,
  sendId: number,
  occurrenceId: number,
  personId: number,
): Promise<CheckInAnswers | null> {
  const [row] = await rows<SaidRow>(
    db,
    `${SAID} JOIN occurrences o ON o.id = c.occurrence_id
     WHERE o.send_id = ? AND c.person_id = ? AND o.due_at < (SELECT due_at FROM occurrences WHERE id = ?)
     ORDER BY o.due_at DESC LIMIT 1`,
    [sendId, personId, occurrenceId],
  );
  if (!row) return null;
  const [said] = await withAnswers(db, [row]);
  return said?.answers ?? null;
}

/**
 * What was said over the days in the check-ins of one send, the latest first: with some words in it, by one person, on
 * one date, to one question, as far as each is given.
 */
export async function saidOver(
  db: Database,
  sendId: number,
  looked: {
    search: string;
    personId: number | null;
    question: number | null;
    fromMs: number | null;
    toMs: number | null;
  },
  before: { answeredMs: number; personId: number } | null,
  most: number,
): Promise<(Said & { occurrenceId: number })[]> {
  const like = `%${looked.search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
  const date = (epochMs: number | null): Date | null => (epochMs === null ? null : new Date(epochMs));
  return withAnswers(
    db,
    await rows<SaidRow>(
      db,
      `${SAID} JOIN occurrences o ON o.id = c.occurrence_id
       WHERE o.send_id = ? AND (? IS NULL OR c.person_id = ?)
         AND (? IS NULL OR c.answered_at >= ?) AND (? IS NULL OR c.answered_at < ?)
         AND (? = '' AND ? IS NULL OR p.name LIKE ? AND ? IS NULL OR EXISTS (SELECT 1 FROM check_in_answers a
           WHERE a.occurrence_id = c.occurrence_id AND a.person_id = c.person_id AND (? IS NULL OR a.question = ?)
             AND (? = '' OR a.text LIKE ?)))
         AND (? IS NULL OR c.answered_at < ? OR (c.answered_at = ? AND c.person_id > ?))
       ORDER BY c.answered_at DESC, c.person_id LIMIT ?`,
      [
        sendId,
        looked.personId,
        looked.personId,
        date(looked.fromMs),
        date(looked.fromMs),
        date(looked.toMs),
        date(looked.toMs),
        looked.search,
        looked.question,
        like,
        looked.question,
        looked.question,
        looked.question,
        looked.search,
        like,
        before?.personId ?? null,
        date(before?.answeredMs ?? null),
        date(before?.answeredMs ?? null),
        before?.personId ?? 0,
        most,
      ],
    ),
  );
}

/** Notes that somebody is blocked no more; false where they were not blocked, or it was noted already. */
export async function unblock(
  db: Database,
  occurrenceId: number,
  personId: number,
  by: number,
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE check_ins SET unblocked_at = NOW(3), unblocked_by = ?
     WHERE occurrence_id = ? AND person_id = ? AND blocked AND unblocked_at IS NULL`,
    [by, occurrenceId, personId],
  );
  return changed === 1;
}

/** What was replied to somebody's check-in, in the order written. */
export async function repliesTo(
  db: Database,
  occurrenceId: number,
  personId: number,
  before: number | null,
  most: number,
): Promise<CheckInReply[]> {
  const found = await rows<CheckInReply>(
    db,
    `SELECT r.id, r.author_id AS authorId, p.shown_name AS author, r.text, ${ms('r.at')} AS atMs
     FROM check_in_replies r JOIN people p ON p.id = r.author_id
     WHERE r.occurrence_id = ? AND r.person_id = ? AND (? IS NULL OR r.id < ?) ORDER BY r.id DESC LIMIT ?`,
    [occurrenceId, personId, before, before, most],
  );
  return found.reverse();
}

/** Those who replied to what somebody said in a check-in. */
export async function repliersTo(db: Database, occurrenceId: number, personId: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    'SELECT DISTINCT author_id AS id FROM check_in_replies WHERE occurrence_id = ? AND person_id = ? LIMIT 500',
    [occurrenceId, personId],
  );
  return found.map((row) => row.id);
}

/** Writes a reply, once for each key; gives its id, or null where it was written already. */
export async function insertCheckInReply(
  db: Database,
  reply: { occurrenceId: number; personId: number; authorId: number; text: string; key: string },
): Promise<number | null> {
  try {
    const [result] = (await db.raw(
      'INSERT INTO check_in_replies (occurrence_id, person_id, author_id, text, idempotency_key) VALUES (?, ?, ?, ?, ?)',
      [reply.occurrenceId, reply.personId, reply.authorId, reply.text, reply.key],
    )) as [{ insertId: number }, unknown];
    return result.insertId;
  } catch (error) {
    if (isDuplicate(error)) return null;
    throw error;
  }
}

/** The text of a reply in a check-in. */
export async function checkInReplyById(db: Database, id: number): Promise<string | undefined> {
  const [row] = await rows<{ text: string }>(db, 'SELECT text FROM check_in_replies WHERE id = ?', [id]);
  return row?.text;
}

/** Who is on the roll of a check-in and has not answered, by name; at most so many. */
export function notHeardFrom(
  db: Database,
  occurrenceId: number,
  most: number,
): Promise<{ id: number; name: string }[]> {
  return rows(
    db,
    `SELECT p.id, p.shown_name AS name FROM roll r JOIN people p ON p.id = r.person_id
     WHERE r.occurrence_id = ? AND r.answered_at IS NULL ORDER BY p.name, p.id LIMIT ?`,
    [occurrenceId, most],
  );
}

/** The occurrences of a send that have begun to go out, the latest first. */
export function daysOf(
  db: Database,
  sendId: number,
  most: number,
): Promise<{ occurrenceId: number; dueMs: number; wall: string }[]> {
  return rows(
    db,
    `SELECT o.id AS occurrenceId, ${ms('o.due_at')} AS dueMs, COALESCE(o.moved_to, o.recurs_at) AS wall FROM occurrences o
     WHERE o.send_id = ? AND o.state IN ('going out', 'sent') ORDER BY o.due_at DESC LIMIT ?`,
    [sendId, most],
  );
}

/** Everybody who has ever said something in the check-ins of a send, by name. */
export function peopleIn(
  db: Database,
  sendId: number,
  most: number,
): Promise<{ id: number; name: string }[]> {
  return rows(
    db,
    `SELECT DISTINCT p.id, p.shown_name AS name FROM check_ins c JOIN occurrences o ON o.id = c.occurrence_id
       JOIN people p ON p.id = c.person_id WHERE o.send_id = ? ORDER BY p.name, p.id LIMIT ?`,
    [sendId, most],
  );
}
