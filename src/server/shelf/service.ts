import type { z } from 'zod';
import { documentSchema } from '../../core/content/documentSchema.ts';
import { documentHtml } from '../../core/content/html.ts';
import { excerpt } from '../../core/content/text.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { wantedAny, wordsIn } from '../../core/search/query.ts';
import type {
  AnswerLine,
  answerSchema,
  AskedQuestion,
  questionSchema,
  ShelfAnswer,
  ShelfDesk,
  Subject,
  subjectSchema,
} from '../../core/shelf/shelf.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { inboxItem } from '../inbox/store.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { answersHolding } from '../search/store.ts';
import { makeUnfindable } from '../search/indexStore.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { answerOnBoard, boardForAnswer } from './onBoard.ts';
import {
  answerById,
  answersByIds,
  answersFirst,
  answersOf,
  askedBy,
  askedFor,
  countOpenQuestions,
  deleteAnswer,
  foundNothing,
  insertAnswer,
  insertQuestion,
  insertSubject,
  mostAsked,
  namedAskers,
  openQuestions,
  publishAnswer,
  publishedQuestions,
  questionById,
  questionByKey,
  questionsOf,
  endQuestion,
  subjects,
  unpublishedAnswers,
  updateAnswer,
  type AnswerRow,
} from './store.ts';

const BEST = 5;

const line = (row: AnswerRow): AnswerLine => ({
  id: row.id,
  question: row.question,
  subject: row.subject,
  excerpt: excerpt([{ heading: '', document: documentSchema.parse(JSON.parse(row.document)) }]),
});

/** The subjects of the shelf, each with the answers in it and in what is narrower. */
export async function listSubjects(db: Database): Promise<Subject[]> {
  const found = await subjects(db);
  const below = (id: number): number =>
    found.reduce((sum, each) => sum + (each.parentId === id ? each.own + below(each.id) : 0), 0);
  return found.map(({ id, parentId, name, own }) => ({ id, parentId, name, answers: own + below(id) }));
}

/** The published answers under a subject, with those of what is narrower. */
export async function answersUnder(db: Database, subjectId: number): Promise<AnswerLine[]> {
  const all = await subjects(db);
  const ids: number[] = [];
  const add = (id: number): void => {
    ids.push(id);
    all.filter((each) => each.parentId === id && !ids.includes(each.id)).forEach((each) => add(each.id));
  };
  add(subjectId);
  return (await answersOf(db, ids)).map(line);
}

const AT_FIRST = 5;

/** What stands on the shelf before anything is asked: what is asked most, and what is new. */
export async function shelfFront(db: Database): Promise<{ most: AnswerLine[]; newest: AnswerLine[] }> {
  const [most, newest] = await Promise.all([
    answersFirst(db, 'most asked', AT_FIRST),
    answersFirst(db, 'newest', AT_FIRST),
  ]);
  return { most: most.map(line), newest: newest.map(line) };
}

/** The answers that fit a question best, as it is typed. */
export async function best(db: Database, text: string): Promise<AnswerLine[]> {
  const ids = await answersHolding(db, wantedAny(text), BEST);
  const found = new Map((await answersByIds(db, ids)).map((row) => [row.id, row]));
  return ids.flatMap((id) => {
    const row = found.get(id);
    return row ? [line(row)] : [];
  });
}

const mayWrite = (actor: Actor): boolean =>
  decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';

/** An answer: for all where it is published, otherwise for those who asked and those who write. */
export async function openAnswer(db: Database, actor: Actor, id: number): Promise<ShelfAnswer> {
  const row = await answerById(db, id);
  if (!row || (row.publishedMs === null && !mayWrite(actor) && !(await askedFor(db, id, actor.id))))
    throw notFound('answer');
  const [came, askedBy] = await Promise.all([
    row.occurrenceId === null ? undefined : inboxItem(db, actor.id, row.occurrenceId),
    namedAskers(db, id),
  ]);
  const path =
    row.occurrenceId === null
      ? null
      : came
        ? `/for-me/${row.occurrenceId}`
        : mayWrite(actor)
          ? `/sends/${row.occurrenceId}`
          : null;
  return {
    ...line(row),
    html: documentHtml(documentSchema.parse(JSON.parse(row.document)), undefined, 2),
    published: row.publishedMs !== null,
    by: row.by,
    writtenMs: row.writtenMs,
    editedMs: row.editedMs,
    askedBy,
    announcement: path !== null && row.announcement !== null ? { title: row.announcement, path } : null,
  };
}

/** What an answer is changed from, or begun from. */
export type AnswerDraft = Omit<z.infer<typeof answerSchema>, 'settles' | 'boardId'> & {
  /** The title of the announcement that said it. */
  announcement: string | null;
};

/** What an answer is changed from. */
export async function draftOfAnswer(db: Database, actor: Actor, id: number): Promise<AnswerDraft> {
  requireWriter(actor);
  const row = await answerById(db, id);
  if (!row) throw notFound('answer');
  return {
    question: row.question,
    document: documentSchema.parse(JSON.parse(row.document)),
    subjectId: row.subjectId,
    occurrenceId: row.occurrenceId,
    announcement: row.announcement,
    published: row.publishedMs !== null,
  };
}

const LOOKED_BACK = 100;

/** The last question of somebody that went to the coordinators and holds the same words. */
async function askedBefore(
  db: Database,
  personId: number,
  text: string,
): Promise<{ id: number; note: string } | undefined> {
  const words = wordsIn(text).join(' ');
  return (await askedBy(db, personId, LOOKED_BACK)).find((each) => wordsIn(each.text).join(' ') === words);
}

/** Asks: notes what helped, or hands the question to the coordinator. The same key asks once. */
export async function askShelf(
  db: Database,
  actor: Actor,
  input: z.infer<typeof questionSchema>,
  key: string,
): Promise<{ id: number }> {
  const known = await questionByKey(db, actor.id, key);
  if (known !== undefined) return { id: known };
  if (input.helpedBy !== null) {
    const helpful = await answerById(db, input.helpedBy);
    // What is not published is nobody's to name, alike with what is not there.
    if (!helpful || helpful.publishedMs === null) throw notFound('answer');
  }
  try {
    return await transact(db, async (trx) => {
      const before = input.helpedBy === null ? await askedBefore(trx, actor.id, input.text) : undefined;
      const id = await insertQuestion(trx, {
        personId: actor.id,
        text: input.text,
        found: input.found,
        state: input.helpedBy === null ? 'open' : 'helped',
        answerId: input.helpedBy,
        key,
        offered: input.offered,
        // What is asked again brings its note along.
        note: input.note === '' ? (before?.note ?? '') : input.note,
        named: input.named,
        againOf: before?.id ?? null,
      });
      if (input.helpedBy === null) await emit(trx, 'question.asked', { question: id });
      return { id };
    });
  } catch (error) {
    const asked = await questionByKey(db, actor.id, key);
    if (asked !== undefined) return { id: asked };
    throw error;
  }
}

/** What somebody asked that went to the coordinator. */
export const myQuestions = (db: Database, actor: Actor): Promise<AskedQuestion[]> =>
  questionsOf(db, actor.id);

export function requireWriter(actor: Actor): void {
  if (!mayWrite(actor)) throw new Problem(403, 'Only a coordinator writes what stands on the shelf.');
}

/** What the shelf asks of a coordinator. */
export async function shelfDesk(db: Database, actor: Actor): Promise<ShelfDesk> {
  requireWriter(actor);
  const [open, asked, nothing, unpublished, all] = await Promise.all([
    openQuestions(db, 100),
    mostAsked(db, 15),
    foundNothing(db, 15),
    unpublishedAnswers(db),
    publishedQuestions(db),
  ]);
  return {
    open,
    mostAsked: asked,
    foundNothing: nothing,
    all,
    unpublished: unpublished.map(line),
  };
}

export const countOpen = (db: Database): Promise<number> => countOpenQuestions(db);

async function requireFitting(db: Database, input: z.infer<typeof answerSchema>): Promise<void> {
  const wrong = (field: string, detail: string): Problem =>
    new Problem(422, detail, { errors: [{ field, detail }] });
  if (!(await subjects(db)).some((subject) => subject.id === input.subjectId))
    throw wrong('subjectId', 'There is no such subject. Choose one from the list.');
  if (input.occurrenceId !== null && !(await occurrenceById(db, input.occurrenceId)))
    throw wrong('occurrenceId', 'There is no such announcement. Choose another, or none.');
}

/** Writes an answer, and settles with it the question of whoever asked. */
export async function writeAnswer(
  db: Database,
  actor: Actor,
  input: z.infer<typeof answerSchema>,
): Promise<number> {
  requireWriter(actor);
  await requireFitting(db, input);
  const board = input.boardId === null ? undefined : await boardForAnswer(db, actor, input.boardId);
  const id = await transact(db, async (trx) => {
    const written = await insertAnswer(trx, input, actor.id);
    if (input.settles !== null) await answerWith(trx, actor, input.settles, written);
    await record(trx, { actorId: actor.id, action: 'write answer', subject: 'shelf', subjectId: written });
    await emit(trx, 'answer.changed', { answer: written });
    return written;
  });
  if (board) await answerOnBoard(db, actor, board, input, id);
  return id;
}

/** Answers an open question with an answer that is on the shelf already. */
export async function pointTo(
  db: Database,
  actor: Actor,
  questionId: number,
  answerId: number,
): Promise<void> {
  requireWriter(actor);
  if (!(await answerById(db, answerId))) throw notFound('answer');
  await transact(db, (trx) => answerWith(trx, actor, questionId, answerId));
}

async function answerWith(db: Database, actor: Actor, questionId: number, answerId: number): Promise<void> {
  const question = await questionById(db, questionId);
  if (!question) throw notFound('question');
  if (!(await endQuestion(db, questionId, actor.id, { state: 'answered', answerId })))
    throw new Problem(409, 'Somebody answered this question meanwhile.');
  await record(db, {
    actorId: actor.id,
    action: 'answer question',
    subject: 'shelf',
    subjectId: answerId,
    detail: { question: questionId },
  });
  await emit(db, 'question.settled', { question: questionId, answer: answerId, note: '' });
}

/** Closes an open question without an answer, with a word to whoever asked. */
export async function closeQuestion(db: Database, actor: Actor, id: number, reason: string): Promise<void> {
  requireWriter(actor);
  const question = await questionById(db, id);
  if (!question) throw notFound('question');
  await transact(db, async (trx) => {
    if (!(await endQuestion(trx, id, actor.id, { state: 'closed', reason })))
      throw new Problem(409, 'Somebody answered this question meanwhile.');
    await record(trx, { actorId: actor.id, action: 'close question', subject: 'shelf', subjectId: id });
    await emit(trx, 'question.settled', { question: id, answer: null, note: reason });
  });
}

/** Changes an answer. */
export async function changeAnswer(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof answerSchema>,
): Promise<void> {
  requireWriter(actor);
  if (!(await answerById(db, id))) throw notFound('answer');
  await requireFitting(db, input);
  await transact(db, async (trx) => {
    await updateAnswer(trx, id, input);
    await record(trx, { actorId: actor.id, action: 'change answer', subject: 'shelf', subjectId: id });
    await emit(trx, 'answer.changed', { answer: id });
  });
}

/** Publishes an answer to all with one press. */
export async function publishToAll(db: Database, actor: Actor, id: number): Promise<void> {
  requireWriter(actor);
  if (!(await answerById(db, id))) throw notFound('answer');
  await transact(db, async (trx) => {
    if (!(await publishAnswer(trx, id))) return;
    await record(trx, { actorId: actor.id, action: 'publish answer', subject: 'shelf', subjectId: id });
    await emit(trx, 'answer.changed', { answer: id });
  });
}

export async function removeAnswer(db: Database, actor: Actor, id: number): Promise<void> {
  requireWriter(actor);
  await transact(db, async (trx) => {
    if (!(await deleteAnswer(trx, id))) throw notFound('answer');
    await makeUnfindable(trx, 'answer', id);
    await record(trx, { actorId: actor.id, action: 'remove answer', subject: 'shelf', subjectId: id });
    await emit(trx, 'answer.removed', { answer: id });
  });
}

/** Adds a subject, or one that is narrower; two levels, so that one arrives in two presses. */
export async function addSubject(
  db: Database,
  actor: Actor,
  input: z.infer<typeof subjectSchema>,
): Promise<number> {
  requireWriter(actor);
  const parent =
    input.parentId === null ? null : (await subjects(db)).find((subject) => subject.id === input.parentId);
  if (parent === undefined || (parent && parent.parentId !== null)) {
    const detail = 'A subject stands by itself or in one that does. Choose another.';
    throw new Problem(422, detail, { errors: [{ field: 'parentId', detail }] });
  }
  const all = await subjects(db);
  if (
    all.some(
      (each) => each.parentId === input.parentId && each.name.toLowerCase() === input.name.toLowerCase(),
    )
  ) {
    const detail = 'There is such a subject already. Choose another name.';
    throw new Problem(422, detail, { errors: [{ field: 'name', detail }] });
  }
  return transact(db, async (trx) => {
    const id = await insertSubject(trx, input.name, input.parentId);
    await record(trx, { actorId: actor.id, action: 'add subject', subject: 'shelf', subjectId: id });
    await emit(trx, 'subject.added', { subject: id });
    return id;
  });
}
