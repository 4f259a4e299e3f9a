import { z } from 'zod';
import { boardChangeSchema, newBoardSchema } from '../../../core/boards/boardSchemas.ts';
import { switchesSchema } from '../../../core/boards/switchesSchema.ts';
import {
  appointModerator,
  arrangeBoards,
  boardSettings,
  makeBoard,
  placeLinks,
  changeBoardSettings,
} from '../../boards/settings.ts';
import { operationsAbout } from '../operation.ts';
import { id } from '../shapes.ts';

const boards = operationsAbout('Boards');

const named = z.object({ id, name: z.string() });
const link = z.object({ label: z.string().trim().min(1).max(120), url: z.string().max(2000) });

const settingsAnswer = z.object({
  id,
  name: z.string(),
  about: z.string(),
  groupId: id.nullable(),
  archived: z.boolean(),
  switches: switchesSchema,
  sectionLimit: z.int(),
  pinLimit: z.int(),
  contactsRead: z.boolean(),
  owner: named.nullable(),
  moderators: z.array(named),
  links: z.array(z.object({ label: z.string(), url: z.string() })),
  /** Why the owner of the token may not change it; null where they may. */
  denied: z.string().nullable(),
});

export const BOARD_SETTINGS = [
  boards('POST /boards', {
    id: 'makeBoard',
    scope: 'boards:moderate',
    summary: 'Make a board; whoever makes it owns it',
    body: newBoardSchema,
    answer: z.object({ id }),
    makes: true,
    example: { name: 'Field notes', about: 'What was seen where.', purpose: 'talk', groupId: null },
    run: async ({ db, actor, body }) => {
      const made = await makeBoard(db, actor, body);
      return { body: { id: made }, location: `/boards/${made}/settings` };
    },
  }),
  boards('GET /boards/{id}/settings', {
    id: 'readBoardSettings',
    scope: 'boards:read',
    summary: 'The settings of a board',
    answer: settingsAnswer,
    run: async ({ db, actor, id: of }) => ({ body: await boardSettings(db, actor, of()) }),
  }),
  boards('PATCH /boards/{id}/settings', {
    id: 'changeBoardSettings',
    scope: 'boards:moderate',
    summary: 'Change settings of a board; those left out stay',
    body: boardChangeSchema,
    example: { pinLimit: 5 },
    run: async ({ db, actor, body, id: of }) => {
      await changeBoardSettings(db, actor, of(), body);
      return undefined;
    },
  }),
  boards('PUT /boards/{id}/links', {
    id: 'placeBoardLinks',
    scope: 'boards:moderate',
    summary: 'Set the key links of a board, in their order',
    body: z.object({ links: z.array(link).max(20) }).strict(),
    example: { links: [{ label: 'The handbook', url: 'https://handbook.example/' }] },
    run: async ({ db, actor, body, id: of }) => {
      await placeLinks(db, actor, of(), body.links);
      return undefined;
    },
  }),
  boards('PUT /boards/{id}/moderators/{person}', {
    id: 'appointModerator',
    scope: 'boards:moderate',
    summary: 'Make somebody a moderator of a board',
    run: async ({ db, actor, id: of }) => {
      await appointModerator(db, actor, of(), of('person'), true);
      return undefined;
    },
  }),
  boards('DELETE /boards/{id}/moderators/{person}', {
    id: 'dismissModerator',
    scope: 'boards:moderate',
    summary: 'Take back that somebody moderates a board',
    run: async ({ db, actor, id: of }) => {
      await appointModerator(db, actor, of(), of('person'), false);
      return undefined;
    },
  }),
  boards('PUT /board-order', {
    id: 'arrangeBoards',
    scope: 'boards:moderate',
    summary: 'Set the order in which boards are listed; for coordinators',
    body: z.object({ ids: z.array(id).max(1000) }).strict(),
    example: { ids: [1] },
    run: async ({ db, actor, body }) => {
      await arrangeBoards(db, actor, body.ids);
      return undefined;
    },
  }),
];
