import { z } from 'zod';
import { sharedSchema, type AtDesk } from '../../../core/desk/sharing.ts';
import { history } from '../../history/service.ts';
import { sendTest } from '../../sends/service.ts';
import { reviewers, share, sharing } from '../../sharing/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, id, instant } from '../shapes.ts';

const announcements = operationsAbout('Announcements');

const people = z.object({ items: z.array(z.object({ personId: id, name: z.string() })) });
const peopleOf = (found: readonly AtDesk[]): z.input<typeof people> => ({
  items: found.map(({ id: personId, name }) => ({ personId, name })),
});

/** What is done with a draft by those at the desk together. */
export const DRAFT_DESK = [
  announcements('GET /announcements/{id}/history', {
    id: 'readHistory',
    scope: 'announcements:read',
    summary: 'What was done with an announcement and its sends, by whom and when, the latest first',
    answer: z.object({
      items: z.array(z.object({ at: instant, by: z.string().nullable(), deed: z.string() })),
    }),
    run: async ({ db, actor, id: of }) => ({
      body: {
        items: (await history(db, actor, of())).map((each) => ({
          at: at(each.atMs),
          by: each.actor,
          deed: each.action,
        })),
      },
    }),
  }),
  announcements('GET /announcements/{id}/sharing', {
    id: 'listSharing',
    scope: 'announcements:read',
    summary: 'Whom a draft is shared with for comments',
    answer: people,
    run: async ({ db, actor, id: of }) => ({ body: peopleOf(await sharing(db, actor, of())) }),
  }),
  announcements('PUT /announcements/{id}/sharing', {
    id: 'shareAnnouncement',
    scope: 'announcements:write',
    summary: 'Share a draft with somebody at the desk for comments, or do so no longer',
    body: sharedSchema,
    answer: people,
    example: { personId: 12, shared: true },
    run: async ({ db, actor, body, id: of }) => ({ body: peopleOf(await share(db, actor, of(), body)) }),
  }),
  announcements('GET /announcements/{id}/reviewers', {
    id: 'listReviewers',
    scope: 'announcements:read',
    summary: 'Who else may be asked to clear a draft as it is planned now',
    answer: people,
    run: async ({ db, actor, id: of }) => ({ body: peopleOf(await reviewers(db, actor, of())) }),
  }),
  announcements('POST /announcements/{id}/test', {
    id: 'testAnnouncement',
    scope: 'announcements:send',
    summary: 'Send yourself a copy of a draft by every method, marked as a test',
    description: 'Nobody else gets it. The same Idempotency-Key sends once.',
    answer: z.object({ sendId: id }),
    makes: true,
    keyed: true,
    run: async ({ db, actor, key, id: of }) => {
      const { occurrenceId } = await sendTest(db, actor, of(), key);
      return { body: { sendId: occurrenceId } };
    },
  }),
];
