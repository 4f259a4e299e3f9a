import type { AskedQuestion, OpenQuestion } from '../../core/shelf/shelf.ts';
import type { Doc } from '../../core/content/document.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** Every subject with how many published answers it holds itself. */
export function subjects(
  db: Database,
): Promise<{ id: number; parentId: number | null; name: string; own: number }[]> {
  return rows(
    db,
    `SELECT s.id, s.parent_id AS parentId, s.name,
       (SELECT COUNT(*) FROM shelf_answers a WHERE a.subject_id = s.id AND a.published_at IS NOT NULL) AS own
     FROM shelf_subjects s ORDER BY s.name`,
  );
}

/** @throws the database's duplicate-key error where there is such a subject */
export async function insertSubject(db: Database, name: string, parentId: number | null): Promise<number> {
  const [id] = await db('shelf_subjects').insert({ name, parent_id: parentId });
  return id ?? 0;
}

export interface AnswerRow {
  id: number;
  subjectId: number;
  subject: string;
  question: string;
  document: string;
  occurrenceId: number | null;
  announcement: string | null;
  publishedMs: number | null;
  by: string;
  writtenBy: number;
  writtenMs: number;
  editedMs: number | null;
}

const ANSWER = `SELECT a.id, a.subject_id AS subjectId, s.name AS subject, a.question, a.document, a.occurrence_id AS occurrenceId,
    v.title AS announcement, ${ms('a.published_at')} AS publishedMs, p.name AS \`by\`, a.written_by AS writtenBy, ${ms('a.written_at')} AS writtenMs,
    ${ms('a.edited_at')} AS editedMs
  FROM shelf_answers a JOIN shelf_subjects s ON s.id = a.subject_id JOIN people p ON p.id = a.written_by
    LEFT JOIN occurrences o ON o.id = a.occurrence_id LEFT JOIN announcement_versions v ON v.id = o.version_id`;

export async function answerById(db: Database, id: number): Promise<AnswerRow | undefined> {
  const [row] = await rows<AnswerRow>(db, `${ANSWER} WHERE a.id = ?`, [id]);
  return row;
}

/** Published answers of some subjects, by question. */
export function answersOf(db: Database, subjectIds: readonly number[]): Promise<AnswerRow[]> {
  if (subjectIds.length === 0) return Promise.resolve([]);
  return rows(
    db,
    `${ANSWER} WHERE a.published_at IS NOT NULL AND a.subject_id IN (${subjectIds.map(() => '?').join(', ')})
     ORDER BY a.question LIMIT 300`,
    subjectIds,
  );
}

/** Published answers by their ids. */
export function answersByIds(db: Database, ids: readonly number[]): Promise<AnswerRow[]> {
  if (ids.length === 0) return Promise.resolve([]);
  return rows(
    db,
    `${ANSWER} WHERE a.published_at IS NOT NULL AND a.id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
}

/** Published answers, those that questions led to most often first, or the newest. */
export function answersFirst(db: Database, by: 'most asked' | 'newest', most: number): Promise<AnswerRow[]> {
  return rows(
    db,
    by === 'newest'
      ? `${ANSWER} WHERE a.published_at IS NOT NULL ORDER BY a.published_at DESC, a.id DESC LIMIT ?`
      : `${ANSWER} JOIN (SELECT answer_id, COUNT(*) AS n FROM shelf_questions WHERE answer_id IS NOT NULL GROUP BY answer_id) c
           ON c.answer_id = a.id
         WHERE a.published_at IS NOT NULL ORDER BY c.n DESC, a.question LIMIT ?`,
    [most],
  );
}

export function unpublishedAnswers(db: Database): Promise<AnswerRow[]> {
  return rows(db, `${ANSWER} WHERE a.published_at IS NULL ORDER BY a.id DESC LIMIT 50`);
}

export interface NewAnswer {
  subjectId: number;
  question: string;
  document: Doc;
  occurrenceId: number | null;
  published: boolean;
}

export async function insertAnswer(db: Database, answer: NewAnswer, by: number): Promise<number> {
  const [id] = await db('shelf_answers').insert({
    subject_id: answer.subjectId,
    question: answer.question,
    document: JSON.stringify(answer.document),
    occurrence_id: answer.occurrenceId,
    published_at: answer.published ? db.raw('NOW(3)') : null,
    written_by: by,
  });
  return id ?? 0;
}

export async function updateAnswer(db: Database, id: number, answer: NewAnswer): Promise<void> {
  await change(
    db,
    `UPDATE shelf_answers SET subject_id = ?, question = ?, document = ?, occurrence_id = ?, edited_at = NOW(3),
       published_at = IF(?, COALESCE(published_at, NOW(3)), NULL) WHERE id = ?`,
    [
      answer.subjectId,
      answer.question,
      JSON.stringify(answer.document),
      answer.occurrenceId,
      answer.published,
      id,
    ],
  );
}

/** Publishes an answer to all; false where it was. */
export async function publishAnswer(db: Database, id: number): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE shelf_answers SET published_at = NOW(3) WHERE id = ? AND published_at IS NULL',
      [id],
    )) === 1
  );
}

export async function deleteAnswer(db: Database, id: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM shelf_answers WHERE id = ?', [id])) === 1;
}

const QUESTION = `SELECT q.id, p.name AS \`by\`, q.text, ${ms('q.at')} AS atMs, q.state, q.found, q.answer_id AS answerId, q.word AS reason, q.note, q.named
  FROM shelf_questions q JOIN people p ON p.id = q.person_id`;

export async function insertQuestion(
  db: Database,
  question: {
    personId: number;
    text: string;
    found: number;
    state: 'helped' | 'open';
    answerId: number | null;
    key: string;
    offered?: readonly number[];
    note?: string;
    named?: boolean;
    againOf?: number | null;
  },
): Promise<number> {
  const [id] = await db('shelf_questions').insert({
    person_id: question.personId,
    text: question.text,
    found: question.found,
    state: question.state,
    answer_id: question.answerId,
    idempotency_key: question.key,
    offered: JSON.stringify(question.offered ?? []),
    note: question.note ?? '',
    named: question.named ?? false,
    again_of: question.againOf ?? null,
  });
  return id ?? 0;
}

export async function questionByKey(
  db: Database,
  personId: number,
  key: string,
): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    'SELECT id FROM shelf_questions WHERE person_id = ? AND idempotency_key = ?',
    [personId, key],
  );
  return row?.id;
}

export async function questionById(
  db: Database,
  id: number,
): Promise<(AskedQuestion & { personId: number }) | undefined> {
  const [row] = await rows<QuestionRow & { personId: number }>(
    db,
    `${QUESTION.replace('SELECT ', 'SELECT q.person_id AS personId, ')} WHERE q.id = ?`,
    [id],
  );
  return row && { ...row, named: row.named === 1 };
}

type QuestionRow = Omit<AskedQuestion, 'named'> & { named: number };
const asked = (row: QuestionRow): AskedQuestion => ({ ...row, named: row.named === 1 });

/** The open questions, the longest waiting first, each with what was offered and what it asks again. */
export async function openQuestions(db: Database, most: number): Promise<OpenQuestion[]> {
  const found = await rows<QuestionRow & { offeredIds: string; againOf: number | null }>(
    db,
    `${QUESTION.replace('SELECT ', 'SELECT q.offered AS offeredIds, q.again_of AS againOf, ')}
     WHERE q.state = 'open' ORDER BY q.at LIMIT ?`,
    [most],
  );
  const ids = [...new Set(found.flatMap((row) => JSON.parse(row.offeredIds) as number[]))];
  const again = found.flatMap((row) => row.againOf ?? []);
  const [answers, before] = await Promise.all([
    ids.length === 0
      ? []
      : rows<{ id: number; question: string }>(
          db,
          `SELECT id, question FROM shelf_answers WHERE id IN (${ids.map(() => '?').join(', ')})`,
          ids,
        ),
    again.length === 0
      ? []
      : rows<QuestionRow>(db, `${QUESTION} WHERE q.id IN (${again.map(() => '?').join(', ')})`, again),
  ]);
  return found.map(({ offeredIds, againOf, ...row }) => ({
    ...asked(row),
    offered: (JSON.parse(offeredIds) as number[]).flatMap(
      (id) => answers.find((answer) => answer.id === id) ?? [],
    ),
    before: before.map(asked).find((each) => each.id === againOf) ?? null,
  }));
}

/** The questions of somebody that went to the coordinators, the latest first. */
export function askedBy(
  db: Database,
  personId: number,
  most: number,
): Promise<{ id: number; text: string; note: string }[]> {
  return rows(
    db,
    "SELECT id, text, note FROM shelf_questions WHERE person_id = ? AND state <> 'helped' ORDER BY id DESC LIMIT ?",
    [personId, most],
  );
}

/** Those whose questions an answer settled and who may be named, by name. */
export async function namedAskers(db: Database, answerId: number): Promise<string[]> {
  const found = await rows<{ name: string }>(
    db,
    `SELECT DISTINCT p.shown_name AS name FROM shelf_questions q JOIN people p ON p.id = q.person_id
     WHERE q.answer_id = ? AND q.state = 'answered' AND q.named ORDER BY p.shown_name LIMIT 5`,
    [answerId],
  );
  return found.map((row) => row.name);
}

/** Questions for which nothing was offered, the latest first. */
export async function foundNothing(db: Database, most: number): Promise<AskedQuestion[]> {
  const found = await rows<QuestionRow>(db, `${QUESTION} WHERE q.found = 0 ORDER BY q.id DESC LIMIT ?`, [
    most,
  ]);
  return found.map(asked);
}

export async function questionsOf(db: Database, personId: number): Promise<AskedQuestion[]> {
  const found = await rows<QuestionRow>(
    db,
    `${QUESTION} WHERE q.person_id = ? AND q.state <> 'helped' ORDER BY q.id DESC LIMIT 30`,
    [personId],
  );
  return found.map(asked);
}

/** What was looked for most: published answers by how often they helped or settled a question. */
export function mostAsked(
  db: Database,
  most: number,
): Promise<{ id: number; question: string; n: number }[]> {
  return rows(
    db,
    `SELECT a.id, a.question, COUNT(*) AS n FROM shelf_questions q JOIN shelf_answers a ON a.id = q.answer_id
     WHERE a.published_at IS NOT NULL GROUP BY a.id, a.question ORDER BY n DESC, a.question LIMIT ?`,
    [most],
  );
}

/** Settles an open question; false where somebody did meanwhile. */
export async function endQuestion(
  db: Database,
  id: number,
  by: number,
  as: { state: 'answered'; answerId: number } | { state: 'closed'; reason: string },
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE shelf_questions SET state = ?, answer_id = ?, word = ?, settled_by = ? WHERE id = ? AND state = 'open'`,
    [
      as.state,
      as.state === 'answered' ? as.answerId : null,
      as.state === 'closed' ? as.reason : null,
      by,
      id,
    ],
  );
  return changed === 1;
}

/** Whether somebody asked what an answer that is not published to all was written for. */
export async function askedFor(db: Database, answerId: number, personId: number): Promise<boolean> {
  return (
    (
      await rows(db, 'SELECT 1 FROM shelf_questions WHERE answer_id = ? AND person_id = ? LIMIT 1', [
        answerId,
        personId,
      ])
    ).length > 0
  );
}

export async function countOpenQuestions(db: Database): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    "SELECT COUNT(*) AS n FROM shelf_questions WHERE state = 'open'",
  );
  return row?.n ?? 0;
}

/** Every published answer by its question. */
export function publishedQuestions(db: Database): Promise<{ id: number; question: string }[]> {
  return rows(
    db,
    'SELECT id, question FROM shelf_answers WHERE published_at IS NOT NULL ORDER BY question LIMIT 1000',
  );
}

/** What went out, with some letters in its title, the latest first, for linking an answer to it. */
export function announcementsGone(
  db: Database,
  letters: string,
  most: number,
): Promise<{ id: number; title: string; dueMs: number }[]> {
  return rows(
    db,
    `SELECT o.id, v.title, ${ms('o.due_at')} AS dueMs
     FROM occurrences o JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
     WHERE o.state IN ('going out', 'sent') AND s.kind = 'send' AND v.title LIKE ?
     ORDER BY o.due_at DESC LIMIT ?`,
    [`%${letters.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`, most],
  );
}
