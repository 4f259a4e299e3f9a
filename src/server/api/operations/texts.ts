import { z } from 'zod';
import { contentAnswer, contentAnswerOf } from '../../../core/api/content.ts';
import { formSchema } from '../../../core/content/formSchema.ts';
import { beginFromFile, fromFileSchema } from '../../announcements/fromFile.ts';
import { changesSince, earlierText } from '../../announcements/service.ts';
import { checkInHistory, historySchema } from '../../asks/check-in/checkIns.ts';
import { ballotsPage } from '../../asks/results.ts';
import { setCommentSettled } from '../../comments/service.ts';
import { FORMS, textOfSend } from '../../texts/service.ts';
import { operationsAbout } from '../operation.ts';
import { cursorOf, id, paged, pageOf, readCursor } from '../shapes.ts';
import { said, saidOf } from './checkIns.ts';

const announcements = operationsAbout('Announcements');
const sends = operationsAbout('Sends');
const asks = operationsAbout('Asks');

/** Texts as they were, as files, and as others answered with them. */
export const TEXTS = [
  announcements('POST /announcements/from-file', {
    id: 'beginFromFile',
    scope: 'announcements:write',
    summary: 'Begin a draft from a file of CommonMark with front matter',
    body: fromFileSchema,
    answer: z.object({
      id,
      /** What the file names and is not here, or not theirs to use. */
      leftOut: z.array(z.string()),
    }),
    makes: true,
    example: { text: '---\ntitle: The store is open\n---\n\nFrom **nine** on.\n' },
    run: async ({ db, actor, body }) => {
      const made = await beginFromFile(db, actor, body);
      return { body: made, location: `/announcements/${made.id}` };
    },
  }),
  announcements('GET /announcements/{id}/texts/{version}', {
    id: 'readEarlierText',
    scope: 'announcements:read',
    summary: 'A text that was kept of an announcement, as its history names it',
    answer: contentAnswer,
    run: async ({ db, actor, id: of }) => ({
      body: contentAnswerOf(await earlierText(db, actor, of(), of('version'))),
    }),
  }),
  announcements('GET /announcements/{id}/changes/{version}', {
    id: 'readChanges',
    scope: 'announcements:read',
    summary: 'What changed in an announcement since a text that was kept of it',
    answer: pageOf(z.object({ kind: z.enum(['same', 'in', 'out']), text: z.string() })),
    run: async ({ db, actor, id: of }) => ({
      body: { items: await changesSince(db, actor, of(), of('version')) },
    }),
  }),
  announcements('PUT /announcements/{id}/comments/{comment}', {
    id: 'markComment',
    scope: 'announcements:write',
    summary: 'Say that what a comment asks is done, or that it is not',
    body: z.object({ settled: z.boolean() }),
    example: { settled: true },
    run: async ({ db, actor, body, id: of }) => {
      await setCommentSettled(db, actor, of(), of('comment'), body.settled);
      return undefined;
    },
  }),
  sends('GET /sends/{id}/text', {
    id: 'readSendText',
    scope: 'announcements:read',
    summary: 'What a send says, as a file: CommonMark with front matter, or a mail (RFC 5322)',
    query: formSchema,
    answer: z.object({ name: z.string(), mime: z.string(), data: z.base64() }),
    run: async ({ db, actor, query, settings, id: of }) => {
      const { name, body } = await textOfSend(db, actor, of(), query.as, settings);
      return { body: { name, mime: FORMS[query.as], data: Buffer.from(body).toString('base64') } };
    },
  }),
  asks('GET /asks/{id}/ballots', {
    id: 'listBallots',
    scope: 'asks:read',
    summary: 'Who chose what in a poll with names',
    query: paged,
    answer: pageOf(
      z.object({ personId: id, name: z.string(), station: z.string().nullable(), words: z.string() }),
    ),
    pages: true,
    run: async ({ db, actor, zone, query, id: of }) => {
      const from = readCursor(z.object({ name: z.string(), id }), query.after);
      const { ballots, next } = await ballotsPage(db, { actor, zone }, of(), from);
      return { body: { items: ballots }, after: cursorOf(next && { name: next.name, id: next.id }) };
    },
  }),
  asks('GET /check-ins/{id}/history', {
    id: 'listCheckInHistory',
    scope: 'asks:read',
    summary: 'What was said over the days in the check-ins of one send: by person, question, date and words',
    query: paged.extend(historySchema.omit({ beforeMs: true, beforePerson: true }).shape),
    answer: pageOf(said.extend({ occurrenceId: id, date: z.string() })),
    pages: true,
    run: async ({ db, actor, zone, query: { after, ...looked }, id: of }) => {
      const from = readCursor(z.object({ answeredMs: z.int(), personId: id }), after);
      const { said: found, next } = await checkInHistory(db, { actor, zone }, of(), {
        ...looked,
        ...(from ? { beforeMs: from.answeredMs, beforePerson: from.personId } : {}),
      });
      return {
        body: {
          items: found.map((one) => ({ ...saidOf(one), occurrenceId: one.occurrenceId, date: one.date })),
        },
        after: cursorOf(next && { answeredMs: next.answeredMs, personId: next.personId }),
      };
    },
  }),
];
