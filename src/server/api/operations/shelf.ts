import { z } from 'zod';
import { documentOfMarkdown, markdownOf } from '../../../core/content/markdown.ts';
import { answerSchema, closeSchema, subjectSchema } from '../../../core/shelf/shelf.ts';
import {
  addSubject,
  answersUnder,
  askShelf,
  best,
  changeAnswer,
  closeQuestion,
  draftOfAnswer,
  listSubjects,
  pointTo,
  publishToAll,
  removeAnswer,
  shelfDesk,
  writeAnswer,
} from '../../shelf/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, id, instant } from '../shapes.ts';

const shelf = operationsAbout('Shelf');

const line = z.object({ id, question: z.string(), subject: z.string(), excerpt: z.string() });
const asked = z.object({
  id,
  by: z.string(),
  text: z.string(),
  askedAt: instant,
  /** What the asker said the answers that were offered lack. */
  note: z.string(),
});
const written = answerSchema
  .omit({ document: true, settles: true, boardId: true })
  .extend({ text: z.string().max(50_000).meta({ description: 'CommonMark.' }) })
  .strict();
const writtenNew = written.extend({
  settles: answerSchema.shape.settles,
  boardId: answerSchema.shape.boardId,
});
const answerOf = ({ text, ...rest }: z.output<typeof writtenNew>): z.output<typeof answerSchema> =>
  answerSchema.parse({ ...rest, document: documentOfMarkdown(text) });

export const SHELF = [
  shelf('GET /shelf/subjects', {
    id: 'listSubjects',
    scope: 'shelf:read',
    summary: 'The subjects of the shelf',
    answer: z.object({
      items: z.array(z.object({ id, parentId: id.nullable(), name: z.string(), answers: z.int() })),
    }),
    run: async ({ db }) => ({ body: { items: await listSubjects(db) } }),
  }),
  shelf('POST /shelf/subjects', {
    id: 'makeSubject',
    scope: 'shelf:write',
    summary: 'Make a subject; for coordinators',
    body: subjectSchema,
    answer: z.object({ id }),
    makes: true,
    example: { name: 'Drying rooms', parentId: null },
    run: async ({ db, actor, body }) => ({ body: { id: await addSubject(db, actor, body) } }),
  }),
  shelf('GET /shelf/subjects/{id}/answers', {
    id: 'listAnswers',
    scope: 'shelf:read',
    summary: 'The published answers under a subject',
    answer: z.object({ items: z.array(line) }),
    run: async ({ db, id: of }) => ({ body: { items: await answersUnder(db, of()) } }),
  }),
  shelf('GET /shelf/best', {
    id: 'findAnswers',
    scope: 'shelf:read',
    summary: 'The published answers that fit a question best',
    query: z.object({ text: z.string().min(3).max(300) }),
    answer: z.object({ items: z.array(line) }),
    run: async ({ db, query }) => ({ body: { items: await best(db, query.text) } }),
  }),
  shelf('POST /shelf/questions', {
    id: 'askShelf',
    scope: 'shelf:read',
    summary: 'Ask the coordinator what no answer says',
    body: z
      .object({
        text: z.string().trim().min(3, 'Write what you want to know').max(300, 'At most 300 characters'),
        note: z.string().trim().max(600, 'At most 600 characters').default(''),
        named: z.boolean().default(false),
      })
      .strict(),
    answer: z.object({ id }),
    makes: true,
    keyed: true,
    example: { text: 'Who has the key of the drying room?' },
    run: async ({ db, actor, body, key }) => ({
      body: await askShelf(db, actor, { ...body, helpedBy: null, found: 0, offered: [] }, key),
    }),
  }),
  shelf('GET /shelf/questions', {
    id: 'listQuestions',
    scope: 'shelf:read',
    summary: 'The questions that wait for an answer; for coordinators',
    answer: z.object({ items: z.array(asked) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await shelfDesk(db, actor)).open.map(({ id: of, by, text, atMs, note }) => ({
          id: of,
          by,
          text,
          askedAt: at(atMs),
          note,
        })),
      },
    }),
  }),
  shelf('POST /shelf/questions/{id}/answer', {
    id: 'pointToAnswer',
    scope: 'shelf:write',
    summary: 'Answer a question with what is on the shelf already',
    body: z.object({ answerId: id }).strict(),
    example: { answerId: 1 },
    run: async ({ db, actor, body, id: of }) => {
      await pointTo(db, actor, of(), body.answerId);
      return undefined;
    },
  }),
  shelf('POST /shelf/questions/{id}/close', {
    id: 'closeQuestion',
    scope: 'shelf:write',
    summary: 'Close a question without an answer; its asker is told why',
    body: closeSchema,
    example: { reason: 'It was said on the board.' },
    run: async ({ db, actor, body, id: of }) => {
      await closeQuestion(db, actor, of(), body.reason);
      return undefined;
    },
  }),
  shelf('POST /shelf/answers', {
    id: 'writeAnswer',
    scope: 'shelf:write',
    summary: 'Write an answer, for whoever asked or for all',
    body: writtenNew,
    answer: z.object({ id }),
    makes: true,
    example: {
      question: 'Who has the key?',
      text: 'The *keyholder* of the week.',
      subjectId: 1,
      published: true,
    },
    run: async ({ db, actor, body }) => {
      const made = await writeAnswer(db, actor, answerOf(body));
      return { body: { id: made }, location: `/shelf/answers/${made}` };
    },
  }),
  shelf('GET /shelf/answers/{id}', {
    id: 'readAnswer',
    scope: 'shelf:read',
    summary: 'An answer as it was written; for coordinators',
    answer: z.object({
      question: z.string(),
      text: z.string(),
      subjectId: id,
      occurrenceId: id.nullable(),
      published: z.boolean(),
    }),
    run: async ({ db, actor, id: of }) => {
      const { document, ...rest } = await draftOfAnswer(db, actor, of());
      return { body: { ...rest, text: markdownOf(document) } };
    },
  }),
  shelf('PUT /shelf/answers/{id}', {
    id: 'changeAnswer',
    scope: 'shelf:write',
    summary: 'Change an answer',
    body: written,
    example: {
      question: 'Who has the key?',
      text: 'The keyholder of the *week*.',
      subjectId: 1,
      published: true,
    },
    run: async ({ db, actor, body, id: of }) => {
      await changeAnswer(db, actor, of(), answerOf({ ...body, settles: null, boardId: null }));
      return undefined;
    },
  }),
  shelf('POST /shelf/answers/{id}/publish', {
    id: 'publishAnswer',
    scope: 'shelf:write',
    summary: 'Publish to all what was written for one',
    run: async ({ db, actor, id: of }) => {
      await publishToAll(db, actor, of());
      return undefined;
    },
  }),
  shelf('DELETE /shelf/answers/{id}', {
    id: 'removeAnswer',
    scope: 'shelf:write',
    summary: 'Take an answer off the shelf',
    run: async ({ db, actor, id: of }) => {
      await removeAnswer(db, actor, of());
      return undefined;
    },
  }),
];
