import { z } from 'zod';
import { newPostSchema, passOnSchema, replySchema } from '../../../core/boards/board.ts';
import { REACTIONS } from '../../../core/boards/reaction.ts';
import { documentOfMarkdown } from '../../../core/content/markdown.ts';
import { passOn } from '../../posts/passingOn.ts';
import { FOUND_KINDS } from '../../../core/search/query.ts';
import { searchSchema } from '../../../core/search/searchSchema.ts';
import { requireOnBoard, visibleBoard } from '../../boards/service.ts';
import { letReportStand } from '../../posts/reporting.ts';
import { openReports } from '../../posts/reportStore.ts';
import { search } from '../../search/service.ts';
import { rewritePost, takeDownOwn } from '../../posts/writing.ts';
import { react } from '../../reactions/service.ts';
import { decideReply, rewriteReply } from '../../replies/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, cursorOf, id, instant, pageOf, readCursor } from '../shapes.ts';

const posts = operationsAbout('Posts');

const text = z
  .string()
  .max(50_000, 'A text has at most 50,000 characters')
  .meta({ description: 'CommonMark.' });
const written = z.object({ id, state: z.enum(['up', 'held']) });

export const CONVERSATION = [
  posts('PUT /posts/{id}', {
    id: 'rewritePost',
    scope: 'boards:write',
    summary: 'Change a post of the owner of the token',
    body: z.object({ ...newPostSchema.omit({ document: true }).shape, text }).strict(),
    answer: written,
    example: { title: 'The van is back', text: 'With *newer* tyres.' },
    run: async ({ db, actor, body: { text: words, ...rest }, id: of }) => ({
      body: await rewritePost(
        db,
        actor,
        of(),
        newPostSchema.parse({ ...rest, document: documentOfMarkdown(words) }),
      ),
    }),
  }),
  posts('DELETE /posts/{id}', {
    id: 'takeDownPost',
    scope: 'boards:write',
    summary: 'Take down a post of the owner of the token',
    run: async ({ db, actor, id: of }) => {
      await takeDownOwn(db, actor, of());
      return undefined;
    },
  }),
  posts('POST /posts/{id}/pass-on', {
    id: 'passPostOn',
    scope: 'boards:write',
    summary: 'Pass a post on to another board, with or without a word',
    body: z.object({ boardId: id, text: text.default('') }).strict(),
    answer: written,
    makes: true,
    keyed: true,
    example: { boardId: 2 },
    run: async ({ db, actor, body, key, id: of }) => {
      const passed = passOnSchema.parse({
        boardId: body.boardId,
        ...(body.text === '' ? {} : { document: documentOfMarkdown(body.text) }),
      });
      const made = await passOn(db, actor, of(), passed, key);
      return { body: { id: made.id, state: made.state }, location: `/posts/${made.id}` };
    },
  }),
  posts('PUT /replies/{id}', {
    id: 'rewriteReply',
    scope: 'boards:write',
    summary: 'Change a reply of the owner of the token',
    body: z.object({ text, files: replySchema.shape.files }).strict(),
    example: { text: 'Thank you, we *are* on our way.' },
    run: async ({ db, actor, body, id: of }) => {
      await rewriteReply(
        db,
        actor,
        of(),
        replySchema.parse({ files: body.files, document: documentOfMarkdown(body.text) }),
      );
      return undefined;
    },
  }),
  posts('POST /replies/{id}/decision', {
    id: 'decideReply',
    scope: 'boards:moderate',
    summary: 'Hide a reply, show it again or delete it, as a moderator; its author is told',
    body: z
      .object({
        to: z.enum(['up', 'hidden', 'deleted']),
        note: z.string().trim().max(600, 'At most 600 characters').default(''),
      })
      .strict(),
    example: { to: 'hidden', note: 'Not for this board.' },
    run: async ({ db, actor, body, id: of }) => {
      await decideReply(db, actor, of(), body.to, body.note);
      return undefined;
    },
  }),
  posts('DELETE /replies/{id}', {
    id: 'deleteReply',
    scope: 'boards:write',
    summary: 'Delete a reply of the owner of the token',
    run: async ({ db, actor, id: of }) => {
      await decideReply(db, actor, of(), 'deleted', '');
      return undefined;
    },
  }),
  posts('PUT /reactions', {
    id: 'react',
    scope: 'boards:write',
    summary: 'Give a reaction to a post, a reply or what one reads of a send, or take it back',
    body: z
      .object({
        subject: z.enum(['post', 'reply', 'occurrence']),
        id,
        kind: z.enum(REACTIONS),
        given: z.boolean(),
      })
      .strict(),
    example: { subject: 'post', id: 1, kind: REACTIONS[0], given: true },
    run: async ({ db, actor, body }) => {
      await react(db, actor, { subject: body.subject, id: body.id }, body.kind, body.given);
      return undefined;
    },
  }),
  posts('GET /boards/{id}/reports', {
    id: 'listReports',
    scope: 'boards:moderate',
    summary:
      'What was reported on a board and is not dealt with, the first first; without what the owner of the token wrote',
    answer: z.object({
      items: z.array(
        z.object({
          id,
          subject: z.enum(['post', 'reply']),
          subjectId: id,
          postId: id,
          title: z.string(),
          reporter: z.string(),
          reason: z.string(),
          reportedAt: instant,
        }),
      ),
    }),
    run: async ({ db, actor, id: of }) => {
      const board = await visibleBoard(db, actor, of());
      requireOnBoard(actor, 'moderate', board);
      return {
        body: {
          items: (await openReports(db, board.id, actor.id)).map((report) => ({
            id: report.id,
            subject: report.subject,
            subjectId: report.subjectId,
            postId: report.postId,
            title: report.title,
            reporter: report.reporter,
            reason: report.reason,
            reportedAt: at(report.atMs),
          })),
        },
      };
    },
  }),
  posts('GET /search', {
    id: 'search',
    scope: 'boards:read',
    summary: 'What the owner of the token may read and holds the words, the best first',
    query: searchSchema
      .pick({ q: true, kind: true, board: true, from: true, to: true })
      .extend({ after: z.string().optional() }),
    answer: pageOf(
      z.object({
        kind: z.enum(FOUND_KINDS),
        path: z.string(),
        title: z.string(),
        extract: z.string(),
        author: z.string(),
        where: z.string(),
        at: instant,
      }),
    ),
    pages: true,
    run: async ({ db, actor, zone, query }) => {
      const cursor = readCursor(z.object({ n: z.int().min(0).max(1000) }), query.after);
      const { found, next } = await search(
        db,
        actor,
        zone,
        searchSchema.parse({ ...query, after: cursor?.n ?? 0 }),
      );
      return {
        body: {
          items: found.map((each) => ({
            kind: each.kind,
            path: each.path,
            title: each.title.join(''),
            extract: each.extract.join(''),
            author: each.author,
            where: each.where,
            at: at(each.atMs),
          })),
        },
        after: cursorOf(next === null ? null : { n: next }),
      };
    },
  }),
  posts('POST /reports/{id}/settlement', {
    id: 'letReportStand',
    scope: 'boards:moderate',
    summary: 'Say that a report is dealt with',
    run: async ({ db, actor, id: of }) => {
      await letReportStand(db, actor, of());
      return undefined;
    },
  }),
];
