import { z } from 'zod';
import {
  checkInPage,
  checkInReplySchema,
  checkInThread,
  replyToCheckIn,
  unblockCheckIn,
} from '../../asks/check-in/checkIns.ts';
import { chaseNow } from '../../sends/chaseNow.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, id, instant } from '../shapes.ts';

const asks = operationsAbout('Asks');

export const said = z.object({
  personId: id,
  name: z.string(),
  station: z.string().nullable(),
  answeredAt: instant,
  /** What they answered, by the ids of the questions. */
  answers: z.record(z.string(), z.unknown()),
  blocked: z.boolean(),
  replies: z.int(),
});
export const saidOf = (one: Awaited<ReturnType<typeof checkInThread>>['said']): z.input<typeof said> => ({
  personId: one.personId,
  name: one.name,
  station: one.station,
  answeredAt: at(one.answeredMs),
  answers: { ...one.answers },
  blocked: one.blocked,
  replies: one.replies,
});

export const CHECK_INS = [
  asks('POST /asks/{id}/chase', {
    id: 'chase',
    scope: 'announcements:send',
    summary: 'Remind those who have not answered, now',
    answer: z.object({ occurrenceId: id, people: z.int() }),
    makes: true,
    keyed: true,
    run: async ({ db, actor, key, id: of }) => {
      const chased = await chaseNow(db, actor, of(), key);
      return { body: chased, location: `/sends/${chased.occurrenceId}` };
    },
  }),
  asks('GET /check-ins/{id}', {
    id: 'readCheckIn',
    scope: 'asks:read',
    summary: 'A check-in: who said what, and who is missing; those who are blocked on top',
    answer: z.object({
      id,
      title: z.string(),
      date: z.string(),
      closesAt: instant.nullable(),
      closedAt: instant.nullable(),
      questions: z.array(z.looseObject({ text: z.string(), kind: z.string() })),
      said: z.array(said),
      missing: z.array(z.object({ id, name: z.string() })),
      /** How many are missing in all. */
      missingCount: z.int(),
    }),
    run: async ({ db, actor, zone, id: of }) => {
      const page = await checkInPage(db, { actor, zone }, of());
      return {
        body: {
          id: page.occurrenceId,
          title: page.title,
          date: page.date,
          closesAt: atOrNull(page.closesMs),
          closedAt: atOrNull(page.closedMs),
          questions: page.questions.map((question) => ({ ...question })),
          said: page.said.map(saidOf),
          missing: page.missing,
          missingCount: page.missingCount,
        },
      };
    },
  }),
  asks('GET /check-ins/{id}/people/{person}', {
    id: 'readCheckInOf',
    scope: 'asks:read',
    summary: 'What one person said in a check-in, with the latest replies',
    answer: z.object({
      said,
      replies: z.array(z.object({ id, author: z.string(), text: z.string(), writtenAt: instant })),
    }),
    run: async ({ db, actor, id: of }) => {
      const thread = await checkInThread(db, actor, of(), of('person'));
      return {
        body: {
          said: saidOf(thread.said),
          replies: thread.replies.map((reply) => ({
            id: reply.id,
            author: reply.author,
            text: reply.text,
            writtenAt: at(reply.atMs),
          })),
        },
      };
    },
  }),
  asks('POST /check-ins/{id}/people/{person}/replies', {
    id: 'replyToCheckIn',
    scope: 'boards:write',
    summary: 'Reply to what one person said in a check-in',
    body: checkInReplySchema.strict(),
    keyed: true,
    example: { text: 'I bring the pump at four.' },
    run: async ({ db, actor, body, key, id: of }) => {
      await replyToCheckIn(db, actor, of(), of('person'), body, key);
      return undefined;
    },
  }),
  asks('POST /check-ins/{id}/people/{person}/unblocked', {
    id: 'unblockCheckIn',
    scope: 'boards:write',
    summary: 'Say that somebody is blocked no more',
    run: async ({ db, actor, id: of }) => {
      await unblockCheckIn(db, actor, of(), of('person'));
      return undefined;
    },
  }),
];
