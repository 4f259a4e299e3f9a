import { dateSchema, instantInAddress } from '../../../core/timing/bounds.ts';
import { z } from 'zod';
import { blockedFirst, byQuestion, type Question } from '../../../core/asks/check-in/checkIn.ts';
import type { CheckInPage, HistoryPage, Thread } from '../../../core/asks/check-in/checkInPage.ts';
import { decide, type Actor } from '../../../core/rights/decide.ts';
import { dateAt, dayAfter, resolveMoment } from '../../../core/timing/wallTime.ts';
import type { Session } from '../../accounts/service.ts';
import { databaseNow, transact, type Database } from '../../database/connection.ts';
import { emit } from '../../events/store.ts';
import { notFound, Problem } from '../../problem.ts';
import { forgottenOf } from '../../retention/keptStore.ts';
import { occurrencesByIds, type Occurrence } from '../../sends/occurrenceStore.ts';
import { askedBy } from '../answering.ts';
import { askStates, type AskState } from '../askStore.ts';
import { dateOf } from './checkInDate.ts';
import {
  daysOf,
  insertCheckInReply,
  notHeardFrom,
  peopleIn,
  repliesTo,
  saidBy,
  saidIn,
  saidOver,
  unblock,
} from './checkInStore.ts';
import { answerOf, tallies } from '../store.ts';

const MOST = 500;
const MISSING = 100;
const DAYS = 60;
const HISTORY = 30;
const REPLIES = 50;

interface OpenedCheckIn {
  occurrence: Occurrence;
  questions: Question[];
  state: AskState;
  mine: CheckInPage['mine'];
  /** Whether they asked it, or are a coordinator. */
  asked: boolean;
}

/** A check-in for those who are in it, whoever asked, and coordinators; a 404 problem for anybody else. */
async function openCheckIn(db: Database, actor: Actor, occurrenceId: number): Promise<OpenedCheckIn> {
  const found = await askedBy(db, occurrenceId).catch((error: unknown) => {
    // Nothing tells what is there of another kind from what is not there.
    throw error instanceof Problem && error.status === 404 ? notFound('check-in') : error;
  });
  const { occurrence, ask } = found;
  if (ask.kind !== 'check-in') throw notFound('check-in');
  const [states, answeredMs] = await Promise.all([
    askStates(db, [occurrence.id]),
    answerOf(db, occurrence.id, actor.id),
  ]);
  const state = states.get(occurrence.id);
  const asked = decide(actor, { kind: 'see send', authorId: occurrence.createdBy }).outcome === 'allowed';
  if (!state || (answeredMs === undefined && !asked)) throw notFound('check-in');
  return {
    occurrence,
    questions: ask.questions,
    state,
    asked,
    mine: answeredMs === undefined ? 'not asked' : answeredMs === null ? 'waiting' : 'answered',
  };
}

/** One day's check-in: what was said, by person with the blocked on top and by question, and who is missing. */
export async function checkInPage(
  db: Database,
  { actor, zone }: Pick<Session, 'actor' | 'zone'>,
  occurrenceId: number,
): Promise<CheckInPage> {
  const { occurrence, questions, state, mine, asked } = await openCheckIn(db, actor, occurrenceId);
  const [said, missing, counted, days, nowMs, { answersMs }] = await Promise.all([
    saidIn(db, occurrence.id, MOST),
    notHeardFrom(db, occurrence.id, MISSING),
    tallies(db, [occurrence.id]),
    daysOf(db, occurrence.sendId, DAYS),
    databaseNow(db),
    forgottenOf(db, occurrence.id),
  ]);
  const tally = counted.get(occurrence.id) ?? { asked: 0, answered: 0 };
  const over = state.closesMs !== null && state.closesMs <= nowMs ? state.closesMs : null;
  return {
    occurrenceId: occurrence.id,
    title: occurrence.title,
    date: dateOf(occurrence.plan, occurrence.movedTo ?? occurrence.recursAt, occurrence.dueMs, zone),
    closesMs: state.closesMs,
    closedMs: state.closedMs ?? over,
    questions,
    said: blockedFirst(said),
    byQuestion: byQuestion(questions, said),
    missing,
    missingCount: tally.asked - tally.answered,
    forgotten: answersMs === null ? null : { atMs: answersMs, answered: tally.answered },
    days: days.map((day) => ({
      occurrenceId: day.occurrenceId,
      date: dateOf(occurrence.plan, day.wall, day.dueMs, zone),
    })),
    mine,
    mayClose: asked,
    me: actor.id,
  };
}

/** What one person said in a check-in, with what was replied. */
export async function checkInThread(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  personId: number,
  before: number | null = null,
): Promise<Thread> {
  const { occurrence } = await openCheckIn(db, actor, occurrenceId);
  const said = await saidBy(db, occurrence.id, personId);
  if (!said) throw notFound('check-in');
  const found = await repliesTo(db, occurrence.id, personId, before, REPLIES + 1);
  const replies = found.length > REPLIES ? found.slice(1) : found;
  return { said, replies, earlier: found.length > REPLIES ? (replies[0]?.id ?? null) : null };
}

export const checkInReplySchema = z.object({
  text: z.string().trim().min(1, 'Write a reply first').max(1000, 'At most 1000 characters'),
  /** Whether the reply also says that they are blocked no more. */
  unblocks: z.boolean().default(false),
});

/**
 * Replies to what somebody said in a check-in, once for each key, and tells them and those who replied before. Anybody in
 * the check-in can say that somebody is blocked no more.
 */
export async function replyToCheckIn(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  personId: number,
  input: z.infer<typeof checkInReplySchema>,
  key: string,
): Promise<void> {
  const { occurrence } = await openCheckIn(db, actor, occurrenceId);
  const said = await saidBy(db, occurrence.id, personId);
  if (!said) throw notFound('check-in');
  await transact(db, async (trx) => {
    const written = await insertCheckInReply(trx, {
      occurrenceId: occurrence.id,
      personId,
      authorId: actor.id,
      text: input.text,
      key,
    });
    if (written === null) return;
    if (input.unblocks) await unblock(trx, occurrence.id, personId, actor.id);
    await emit(trx, 'check-in.replied', {
      occurrence: occurrence.id,
      person: personId,
      reply: written,
      by: actor.id,
    });
  });
}

/** Notes that somebody is blocked no more, without a word. */
export async function unblockCheckIn(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  personId: number,
): Promise<void> {
  const { occurrence } = await openCheckIn(db, actor, occurrenceId);
  await transact(db, async (trx) => {
    if (!(await unblock(trx, occurrence.id, personId, actor.id)))
      throw new Problem(409, 'They are not blocked, or somebody has noted it already.');
    await emit(trx, 'check-in.unblocked', { occurrence: occurrence.id, person: personId });
  });
}

export const historySchema = z.object({
  search: z.string().max(100).default(''),
  person: z.coerce.number().int().positive().optional(),
  question: z.coerce.number().int().min(0).max(20).optional(),
  from: dateSchema('2026-11-20').optional(),
  to: dateSchema('2026-11-20').optional(),
  beforeMs: instantInAddress.optional(),
  beforePerson: z.coerce.number().int().positive().optional(),
});

/** What was said over the days in the check-ins of one send: by person, question, date and words. */
export async function checkInHistory(
  db: Database,
  { actor, zone }: Pick<Session, 'actor' | 'zone'>,
  occurrenceId: number,
  looked: z.infer<typeof historySchema>,
): Promise<HistoryPage> {
  const { occurrence, questions } = await openCheckIn(db, actor, occurrenceId);
  const start = (date: string): number => resolveMoment({ wall: `${date}T00:00`, zone }).epochMs;
  const before =
    looked.beforeMs !== undefined && looked.beforePerson !== undefined
      ? { answeredMs: looked.beforeMs, personId: looked.beforePerson }
      : null;
  const [found, people] = await Promise.all([
    saidOver(
      db,
      occurrence.sendId,
      {
        search: looked.search.trim(),
        personId: looked.person ?? null,
        question: looked.question ?? null,
        fromMs: looked.from === undefined ? null : start(looked.from),
        toMs: looked.to === undefined ? null : start(dayAfter(looked.to)),
      },
      before,
      HISTORY + 1,
    ),
    peopleIn(db, occurrence.sendId, 1000),
  ]);
  const page = found.slice(0, HISTORY);
  const last = page.at(-1);
  const days = await occurrencesByIds(db, [...new Set(page.map((said) => said.occurrenceId))]);
  const dateWhen = (id: number, answeredMs: number): string => {
    const day = days.get(id);
    return day ? dateOf(day.plan, day.movedTo ?? day.recursAt, day.dueMs, zone) : dateAt(answeredMs, zone);
  };
  return {
    questions,
    said: page.map((said) => ({ ...said, date: dateWhen(said.occurrenceId, said.answeredMs) })),
    people,
    next: found.length > HISTORY && last ? { answeredMs: last.answeredMs, personId: last.personId } : null,
  };
}
