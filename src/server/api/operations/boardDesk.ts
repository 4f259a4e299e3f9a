import { z } from 'zod';
import { fileArchivedSchema, filesAskedSchema } from '../../../core/boards/filesSchema.ts';
import { reportSchema } from '../../../core/boards/board.ts';
import { archiveFile, boardFiles } from '../../board-files/service.ts';
import { membersOfBoard, reachOf } from '../../boards/service.ts';
import { earlierTexts } from '../../posts/opening.ts';
import { reportPost } from '../../posts/reporting.ts';
import { reportReply } from '../../replies/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const boards = operationsAbout('Boards');

/** What stands around a board: its files, who is on it, and what is reported of it. */
export const BOARD_DESK = [
  boards('GET /boards/{id}/files', {
    id: 'listBoardFiles',
    scope: 'boards:read',
    summary: 'The files of a board, those of its posts and replies',
    query: filesAskedSchema,
    answer: z.object({
      items: z.array(
        z.object({
          key: z.string(),
          name: z.string(),
          bytes: z.int(),
          where: z.string(),
          path: z.string(),
          by: z.string(),
          at: instant.nullable(),
          archived: z.boolean(),
        }),
      ),
      /** Whether there are more than are listed. */
      more: z.boolean(),
    }),
    run: async ({ db, actor, query, id: of }) => {
      const { files, more } = await boardFiles(db, actor, of(), query.order);
      return { body: { items: files.map(({ atMs, ...file }) => ({ ...file, at: atOrNull(atMs) })), more } };
    },
  }),
  boards('PUT /boards/{id}/files', {
    id: 'archiveFile',
    scope: 'boards:moderate',
    summary: 'Put a file of a board out of its list, or back into it; it stays where it is',
    body: fileArchivedSchema,
    example: { key: 'k'.repeat(22), archived: true },
    run: async ({ db, actor, body, id: of }) => {
      await archiveFile(db, actor, of(), body);
      return undefined;
    },
  }),
  boards('GET /boards/{id}/reach', {
    id: 'readBoardReach',
    scope: 'boards:read',
    summary: 'How many a post on a board reaches, and who they are',
    answer: z.object({ people: z.int(), whom: z.string() }),
    run: async ({ db, actor, id: of }) => ({ body: await reachOf(db, actor, of()) }),
  }),
  boards('GET /boards/{id}/members', {
    id: 'listBoardMembers',
    scope: 'boards:read',
    summary: 'Who is on a board, by name',
    query: paged.extend({ q: z.string().max(80).default('') }),
    answer: pageOf(
      z.object({
        id,
        name: z.string(),
        station: z.string().nullable(),
        moderates: z.boolean(),
        /** Whether they belong to it, and do not only moderate it. */
        belongs: z.boolean(),
      }),
    ),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const from = readCursor(z.object({ name: z.string(), id }), query.after);
      const { members, next } = await membersOfBoard(db, actor, of(), query.q, from);
      return { body: { items: members }, after: cursorOf(next && { name: next.name, id: next.id }) };
    },
  }),
  boards('GET /posts/{id}/texts', {
    id: 'listPostTexts',
    scope: 'boards:read',
    summary: 'The texts a post had before, for those who moderate its board and its author',
    answer: pageOf(z.object({ title: z.string(), html: z.string(), keptAt: instant })),
    run: async ({ db, actor, id: of }) => ({
      body: {
        items: (await earlierTexts(db, actor, of())).map(({ keptMs, ...text }) => ({
          ...text,
          keptAt: at(keptMs),
        })),
      },
    }),
  }),
  boards('POST /posts/{id}/report', {
    id: 'reportPost',
    scope: 'boards:write',
    summary: 'Report a post to the moderators of its board',
    body: reportSchema,
    example: { reason: 'It names somebody who did not want that.' },
    run: async ({ db, actor, body, id: of }) => {
      await reportPost(db, actor, of(), body.reason);
      return undefined;
    },
  }),
  boards('POST /replies/{id}/report', {
    id: 'reportReply',
    scope: 'boards:write',
    summary: 'Report a reply to the moderators of its board',
    body: reportSchema,
    example: { reason: 'It names somebody who did not want that.' },
    run: async ({ db, actor, body, id: of }) => {
      await reportReply(db, actor, of(), body.reason);
      return undefined;
    },
  }),
];
