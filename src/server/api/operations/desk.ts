import { z } from 'zod';
import { audienceSchema } from '../../../core/audience/expression.ts';
import { commentSchema } from '../../../core/desk/comment.ts';
import { copyAnnouncement, listTemplates, saveAsTemplate } from '../../announcements/service.ts';
import { comment, listComments } from '../../comments/service.ts';
import {
  forgetAudience,
  listSavedAudiences,
  saveAudience,
  saveAudienceSchema,
} from '../../saved-audiences/service.ts';
import { retry } from '../../sends/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, id, instant } from '../shapes.ts';

const announcements = operationsAbout('Announcements');
const sends = operationsAbout('Sends');

const comments = z.object({
  items: z.array(z.object({ id, author: z.string(), text: z.string(), writtenAt: instant })),
});
const commentsOf = (found: Awaited<ReturnType<typeof listComments>>): z.input<typeof comments> => ({
  items: found.map((each) => ({
    id: each.id,
    author: each.author,
    text: each.text,
    writtenAt: at(each.writtenMs),
  })),
});
const kept = z.object({ items: z.array(z.object({ id, name: z.string(), audience: audienceSchema })) });
const keptOf = (found: Awaited<ReturnType<typeof listSavedAudiences>>): z.input<typeof kept> => ({
  items: found.map(({ id: of, name, audience }) => ({ id: of, name, audience })),
});

export const DESK = [
  announcements('GET /templates', {
    id: 'listTemplates',
    scope: 'announcements:read',
    summary: 'The templates that announcements begin from',
    answer: z.object({ items: z.array(z.object({ id, title: z.string() })) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listTemplates(db, actor)).map((each) => ({ id: each.id, title: each.content.title })),
      },
    }),
  }),
  announcements('POST /announcements/{id}/copy', {
    id: 'copyAnnouncement',
    scope: 'announcements:write',
    summary: 'Begin a draft of the owner of the token from another announcement, or from a template',
    answer: z.object({ id }),
    makes: true,
    run: async ({ db, actor, id: of }) => {
      const made = await copyAnnouncement(db, actor, of());
      return { body: { id: made }, location: `/announcements/${made}` };
    },
  }),
  announcements('POST /announcements/{id}/template', {
    id: 'saveAsTemplate',
    scope: 'announcements:write',
    summary: 'Keep an announcement as a template',
    answer: z.object({ id }),
    makes: true,
    run: async ({ db, actor, id: of }) => ({ body: { id: await saveAsTemplate(db, actor, of()) } }),
  }),
  announcements('GET /announcements/{id}/comments', {
    id: 'listComments',
    scope: 'announcements:read',
    summary: 'What those who write it say to each other',
    answer: comments,
    run: async ({ db, actor, id: of }) => ({ body: commentsOf(await listComments(db, actor, of())) }),
  }),
  announcements('POST /announcements/{id}/comments', {
    id: 'comment',
    scope: 'announcements:write',
    summary: 'Say something to those who write it',
    body: commentSchema.strict(),
    answer: comments,
    makes: true,
    example: { text: 'The date is wrong in the second line.', mentions: [] },
    run: async ({ db, actor, body, id: of }) => ({
      body: commentsOf(await comment(db, actor, of(), body)),
    }),
  }),
  announcements('GET /audiences', {
    id: 'listAudiences',
    scope: 'announcements:read',
    summary: 'The audiences that are kept under a name',
    answer: kept,
    run: async ({ db, actor }) => ({ body: keptOf(await listSavedAudiences(db, actor)) }),
  }),
  announcements('POST /audiences', {
    id: 'saveAudience',
    scope: 'announcements:write',
    summary: 'Keep an audience under a name',
    body: saveAudienceSchema.strict(),
    answer: kept,
    makes: true,
    example: { name: 'All of it', audience: { kind: 'everyone' } },
    run: async ({ db, actor, body }) => ({ body: keptOf(await saveAudience(db, actor, body)) }),
  }),
  announcements('DELETE /audiences/{id}', {
    id: 'forgetAudience',
    scope: 'announcements:write',
    summary: 'Forget an audience that is kept; what was planned with it stays as it is',
    run: async ({ db, actor, id: of }) => {
      await forgetAudience(db, actor, of());
      return undefined;
    },
  }),
  sends('POST /sends/{id}/retry', {
    id: 'retrySend',
    scope: 'announcements:send',
    summary: 'Try again what did not reach people',
    answer: z.object({ again: z.int() }),
    run: async ({ db, actor, id: of }) => ({ body: await retry(db, actor, of()) }),
  }),
];
