import { z } from 'zod';
import { MAX_TITLE } from '../../../core/content/announcement.ts';
import { documentOfMarkdown, markdownOf } from '../../../core/content/markdown.ts';
import {
  decisionSchema,
  newPostSchema,
  pinSchema,
  POST_STATES,
  replySchema,
} from '../../../core/boards/board.ts';
import { isBlank } from '../../../core/content/document.ts';
import { listBoards, requireOnBoard, visibleBoard } from '../../boards/service.ts';
import { visiblePost } from '../../posts/opening.ts';
import { sectionsOfPost } from '../../posts/parts.ts';
import { decidePost } from '../../posts/moderating.ts';
import { pin } from '../../posts/pinning.ts';
import { heldPosts, postsPage, type PostRow } from '../../posts/store.ts';
import { writePost } from '../../posts/writing.ts';
import { writeReply } from '../../replies/service.ts';
import { repliesPage } from '../../replies/store.ts';
import { operationsAbout } from '../operation.ts';
import { at, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const boards = operationsAbout('Boards');
const posts = operationsAbout('Posts');

const markdown = z
  .string()
  .max(50_000, 'A text has at most 50,000 characters')
  .refine((text) => !isBlank(text), 'Write a text')
  .meta({ description: 'CommonMark.' });

const boardAnswer = z.object({
  id,
  name: z.string(),
  about: z.string(),
  archived: z.boolean(),
  /** Whether the owner of the token may post there. */
  mayPost: z.boolean(),
});

const postAnswer = z.object({
  id,
  boardId: id,
  title: z.string(),
  author: z.string(),
  state: z.enum(POST_STATES),
  postedAt: instant,
  /** Which part of how many, where it was longer than the board takes; null where it stands whole. */
  part: z.object({ number: z.int(), of: z.int() }).nullable(),
  /** CommonMark; sections one after the other. */
  text: z.string(),
});

const PAGE = 50;

const postOf = (row: PostRow): z.input<typeof postAnswer> => ({
  id: row.id,
  boardId: row.boardId,
  title: row.title,
  author: row.authorName,
  state: row.state,
  postedAt: at(row.postedMs),
  part: row.parts > 1 ? { number: row.part, of: row.parts } : null,
  text: sectionsOfPost(row)
    .map(({ heading, document }) => [heading === '' ? '' : `## ${heading}`, markdownOf(document)])
    .flat()
    .filter((part) => part !== '')
    .join('\n\n'),
});

export const BOARDS = [
  boards('GET /boards', {
    id: 'listBoards',
    scope: 'boards:read',
    summary: 'The boards one may see, in their order',
    answer: z.object({ items: z.array(boardAnswer) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listBoards(db, actor)).map((board) => ({
          id: board.id,
          name: board.name,
          about: board.about,
          archived: board.archived,
          mayPost: board.posting.outcome !== 'denied',
        })),
      },
    }),
  }),
  boards('GET /boards/{id}/posts', {
    id: 'listPosts',
    scope: 'boards:read',
    summary: 'The posts of a board, the latest first',
    query: paged,
    answer: pageOf(postAnswer),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const board = await visibleBoard(db, actor, of());
      const before = readCursor(z.object({ postedMs: z.number(), id }), query.after);
      const found = await postsPage(db, board.id, before, PAGE + 1);
      const items = found.slice(0, PAGE);
      const last = found.length > PAGE ? items.at(-1) : undefined;
      return {
        body: { items: items.map(postOf) },
        after: cursorOf(last ? { postedMs: last.postedMs, id: last.id } : null),
      };
    },
  }),
  boards('POST /boards/{id}/posts', {
    id: 'makePost',
    scope: 'boards:write',
    summary: 'Post on a board',
    description:
      'As the owner of the token; where the board holds posts for a moderator, it waits. Images and files are kept first (Uploads) and named here.',
    body: z
      .object({
        title: z.string().max(MAX_TITLE, `A title has at most ${MAX_TITLE} characters`),
        text: markdown,
        image: newPostSchema.shape.image,
        gallery: newPostSchema.shape.gallery,
        files: newPostSchema.shape.files,
      })
      .strict(),
    answer: z.object({ id, state: z.enum(['up', 'held']) }),
    makes: true,
    keyed: true,
    example: { title: 'The van is back', text: 'With *new* tyres.' },
    run: async ({ db, actor, body, key, id: of }) => {
      const post = newPostSchema.parse({ ...body, document: documentOfMarkdown(body.text) });
      const written = await writePost(db, actor, of(), post, key);
      return { body: { id: written.id, state: written.state }, location: `/posts/${written.id}` };
    },
  }),
  boards('GET /boards/{id}/held', {
    id: 'listHeldPosts',
    scope: 'boards:moderate',
    summary: 'What waits for a moderator on a board',
    answer: z.object({ items: z.array(postAnswer) }),
    run: async ({ db, actor, id: of }) => {
      const board = await visibleBoard(db, actor, of());
      requireOnBoard(actor, 'moderate', board);
      return { body: { items: (await heldPosts(db, board.id)).map(postOf) } };
    },
  }),
  posts('POST /posts/{id}/decision', {
    id: 'decidePost',
    scope: 'boards:moderate',
    summary: 'Decide on a post as a moderator; its author is told',
    body: decisionSchema,
    example: { decision: 'approve', note: '' },
    run: async ({ db, actor, body, id: of }) => {
      await decidePost(db, actor, of(), body);
      return undefined;
    },
  }),
  posts('POST /posts/{id}/pin', {
    id: 'pinPost',
    scope: 'boards:moderate',
    summary: 'Pin a post, until a day or until it is unpinned; or unpin it',
    body: pinSchema,
    example: { pinned: true },
    run: async ({ db, actor, zone, body, id: of }) => {
      await pin(db, actor, of(), body, zone);
      return undefined;
    },
  }),
  posts('GET /posts/{id}', {
    id: 'readPost',
    scope: 'boards:read',
    summary: 'One post',
    answer: postAnswer,
    run: async ({ db, actor, id: of }) => ({ body: postOf((await visiblePost(db, actor, of())).post) }),
  }),
  posts('GET /posts/{id}/replies', {
    id: 'listReplies',
    scope: 'boards:read',
    summary: 'The replies to a post, the latest first',
    query: paged,
    answer: pageOf(z.object({ id, author: z.string(), writtenAt: instant, text: z.string() })),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const { post } = await visiblePost(db, actor, of());
      const before = readCursor(z.object({ id }), query.after);
      const found = (await repliesPage(db, post.id, before?.id ?? null, PAGE + 1)).reverse();
      const page = found.slice(0, PAGE);
      const last = found.length > PAGE ? page.at(-1) : undefined;
      return {
        body: {
          items: page
            .filter((reply) => reply.state === 'up')
            .map((reply) => ({
              id: reply.id,
              author: reply.authorName,
              writtenAt: at(reply.writtenMs),
              text: markdownOf(reply.document),
            })),
        },
        after: cursorOf(last ? { id: last.id } : null),
      };
    },
  }),
  posts('POST /posts/{id}/replies', {
    id: 'makeReply',
    scope: 'boards:write',
    summary: 'Reply to a post',
    body: z.object({ text: markdown }).strict(),
    answer: z.object({ id }),
    makes: true,
    keyed: true,
    example: { text: 'Thank you, on our way.' },
    run: async ({ db, actor, body, key, id: of }) => {
      const reply = replySchema.parse({ document: documentOfMarkdown(body.text) });
      return { body: { id: await writeReply(db, actor, of(), reply, key) } };
    },
  }),
];
