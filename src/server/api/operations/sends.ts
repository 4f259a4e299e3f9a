import { z } from 'zod';
import { OCCURRENCE_STATES } from '../../../core/delivery/states.ts';
import type { RunSheetRow } from '../../../core/sends/send.ts';
import { Problem } from '../../problem.ts';
import { changeState, move, moveSchema, openForChange, takeBack } from '../../sends/changing.ts';
import { runSheet, withOutcome } from '../../sends/runSheet.ts';
import { openOccurrence } from '../../sends/service.ts';
import { reinstate, withdraw, withdrawalSchema } from '../../sends/withdrawing.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, id, instant, span, spanOf } from '../shapes.ts';

const sends = operationsAbout('Sends');

const sendAnswer = z.object({
  id,
  announcementId: id,
  title: z.string(),
  state: z.enum(OCCURRENCE_STATES),
  author: z.string(),
  /** The plan in words. */
  sentence: z.string(),
  dueAt: instant,
  sentAt: instant.nullable(),
  deadlineAt: instant.nullable(),
  inbox: z.int(),
  mailed: z.int(),
  waiting: z.int(),
  failed: z.int(),
  /** How late the last of them was, in milliseconds; null before any has gone. */
  worstLateMs: z.number().nullable(),
  roll: z.object({ asked: z.int(), answered: z.int() }).nullable(),
});

const sendOf = (row: RunSheetRow): z.input<typeof sendAnswer> => ({
  id: row.occurrenceId,
  announcementId: row.announcementId,
  title: row.title,
  state: row.state,
  author: row.author,
  sentence: row.sentence,
  dueAt: at(row.dueMs),
  sentAt: atOrNull(row.sentMs),
  deadlineAt: atOrNull(row.deadlineMs),
  inbox: row.inbox,
  mailed: row.mailed,
  waiting: row.waiting,
  failed: row.failed,
  worstLateMs: row.worstLateMs,
  roll: row.roll && { asked: row.roll.asked, answered: row.roll.answered },
});

const MOST_DAYS = 35;

export const SENDS = [
  sends('GET /sends', {
    id: 'listSends',
    scope: 'announcements:read',
    summary: 'The run sheet: what goes out in a span of time, and what became of it',
    description: `The span is of at most ${MOST_DAYS} days. What recurs beyond what is planned of it, and what automations will say, is not in it.`,
    query: span,
    answer: z.object({ items: z.array(sendAnswer) }),
    run: async ({ db, actor, query }) => {
      const { fromMs, toMs } = spanOf(query, MOST_DAYS);
      const found = await runSheet(db, actor, fromMs, toMs);
      return {
        body: { items: found.filter((row) => row.occurrenceId > 0 && row.automationId === null).map(sendOf) },
      };
    },
  }),
  sends('GET /sends/{id}', {
    id: 'readSend',
    scope: 'announcements:read',
    summary: 'How far a send is',
    answer: sendAnswer,
    run: async ({ db, actor, id: of }) => {
      const [row] = await withOutcome(db, actor, [await openOccurrence(db, actor, of())]);
      if (!row) throw new Problem(404, 'There is no such send.');
      return { body: sendOf(row) };
    },
  }),
  sends('POST /sends/{id}/take-back', {
    id: 'takeBackSend',
    scope: 'announcements:send',
    summary: 'Take back what has not gone',
    answer: z.object({
      /** The draft it is again; null where some of it had gone. */
      announcementId: id.nullable(),
    }),
    run: async ({ db, actor, id: of }) => ({ body: await takeBack(db, actor, of()) }),
  }),
  sends('POST /sends/{id}/correct', {
    id: 'openCorrection',
    scope: 'announcements:write',
    summary: 'Open what has gone for a correction: its announcement is a draft until that is published',
    answer: z.object({ announcementId: id }),
    run: async ({ db, actor, id: of }) => ({ body: await openForChange(db, actor, of(), 'correct') }),
  }),
  sends('POST /sends/{id}/withdraw', {
    id: 'withdrawSend',
    scope: 'announcements:send',
    summary: 'Withdraw what has gone: a line stands in its place, and what it asks is closed',
    body: withdrawalSchema,
    example: { note: 'It went to the wrong group.' },
    run: async ({ db, actor, body, id: of }) => {
      await withdraw(db, actor, of(), body);
      return undefined;
    },
  }),
  sends('POST /sends/{id}/reinstate', {
    id: 'reinstateSend',
    scope: 'announcements:send',
    summary: 'Let what was withdrawn hold again',
    run: async ({ db, actor, id: of }) => {
      await reinstate(db, actor, of());
      return undefined;
    },
  }),
  sends('POST /sends/{id}/state', {
    id: 'changeSeries',
    scope: 'announcements:send',
    summary: 'Pause what recurs, let it go on, or end it for good',
    body: z.object({ step: z.enum(['pause', 'resume', 'end']) }).strict(),
    example: { step: 'pause' },
    run: async ({ db, actor, body, id: of }) => {
      await changeState(db, actor, of(), body.step);
      return undefined;
    },
  }),
  sends('POST /sends/{id}/move', {
    id: 'moveSend',
    scope: 'announcements:send',
    summary: 'Set what has not begun to another time',
    body: moveSchema,
    answer: z.object({ dueAt: instant, warnings: z.array(z.string()) }),
    example: { wall: '2030-09-14T08:30', zone: 'Europe/London' },
    run: async ({ db, actor, body, id: of }) => {
      const moved = await move(db, actor, of(), body);
      return { body: { dueAt: at(moved.dueMs), warnings: moved.warnings } };
    },
  }),
];
