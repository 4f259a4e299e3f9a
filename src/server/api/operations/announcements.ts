import { z } from 'zod';
import { audienceSchema } from '../../../core/audience/expression.ts';
import { contentAnswer, contentAnswerOf, contentInput, contentOfInput } from '../../../core/api/content.ts';
import { contentProblems } from '../../../core/content/announcement.ts';
import { EMPTY_PLAN, planSchema, type Plan } from '../../../core/plan/plan.ts';
import { briefOf } from '../../../core/sends/forecast.ts';
import {
  beginDraft,
  discardDraft,
  openAnnouncement,
  review,
  reviewSchema,
  saveDraft,
} from '../../announcements/service.ts';
import { announcementsPage, type Announcement } from '../../announcements/store.ts';
import { requireDesk } from '../../accounts/require.ts';
import { correctSchema, publishCorrection } from '../../sends/correcting.ts';
import { confirmSend } from '../../sends/confirming.ts';
import { forecast, quickCount } from '../../sends/forecast.ts';
import { occurrenceOf } from '../../sends/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const announcements = operationsAbout('Announcements');
const audiences = operationsAbout('Audiences');

const STATES = ['draft', 'committed', 'template'] as const;

const line = z.object({
  id,
  title: z.string(),
  state: z.enum(STATES),
  author: z.string(),
  savedAt: instant,
});

const announcementAnswer = line.extend({
  revision: z.int(),
  review: z.enum(['none', 'for review', 'cleared']),
  content: contentAnswer,
  plan: planSchema,
  /** Where it has been sent: its latest send. */
  sendId: id.nullable(),
});

const problems = z.array(z.object({ field: z.string(), detail: z.string() }));

const lineOf = (found: Announcement): z.input<typeof line> => ({
  id: found.id,
  title: found.content.title,
  state: found.state,
  author: found.authorName,
  savedAt: at(found.savedMs),
});

const answerOf = (found: Announcement, sendId: number | null): z.input<typeof announcementAnswer> => ({
  ...lineOf(found),
  revision: found.revision,
  review: found.review,
  content: contentAnswerOf(found.content),
  plan: found.plan,
  sendId,
});

/** What is left out of a plan stays as it is. */
const planInput = z
  .object({
    audience: planSchema.shape.audience.optional(),
    mail: z.boolean().optional(),
    boards: planSchema.shape.boards.optional(),
    outside: z.array(z.int().positive()).max(20).optional(),
    contacts: z.boolean().optional(),
    timing: planSchema.shape.timing.optional(),
    ask: planSchema.shape.ask.optional(),
  })
  .strict();

const draftInput = z.object({ content: contentInput, plan: planInput.default({}) }).strict();

const planOf = (before: Plan, given: z.output<typeof planInput>): Plan => ({
  audience: given.audience === undefined ? before.audience : given.audience,
  mail: given.mail ?? before.mail,
  boards: given.boards ?? before.boards,
  outside: given.outside ?? before.outside,
  contacts: given.contacts ?? before.contacts,
  timing: given.timing ?? before.timing,
  ask: given.ask ?? before.ask,
});

export const ANNOUNCEMENTS = [
  announcements('GET /announcements', {
    id: 'listAnnouncements',
    scope: 'announcements:read',
    summary: 'The announcements at the desk, the newest first',
    description: 'Coordinators see everybody’s, editors their own.',
    query: paged.extend({ state: z.enum(STATES).optional() }),
    answer: pageOf(line),
    pages: true,
    run: async ({ db, actor, query }) => {
      requireDesk(actor);
      const before = readCursor(z.object({ id }), query.after);
      const { found, next } = await announcementsPage(db, {
        authorId: actor.role === 'coordinator' ? null : actor.id,
        state: query.state ?? null,
        before: before?.id ?? null,
      });
      return { body: { items: found.map(lineOf) }, after: cursorOf(next === null ? null : { id: next }) };
    },
  }),
  announcements('POST /announcements', {
    id: 'makeAnnouncement',
    scope: 'announcements:write',
    summary: 'Make a draft',
    description:
      'The text of a section is CommonMark. Nothing goes out before it is sent. What is left out of the plan is as in an empty one.',
    body: draftInput,
    answer: announcementAnswer,
    makes: true,
    revised: true,
    example: {
      content: { title: 'The lift stands still', sections: [{ text: 'Until **noon**. Take the stairs.' }] },
      plan: { audience: { kind: 'everyone' }, timing: { kind: 'now' } },
    },
    run: async ({ db, actor, body }) => {
      const draftId = await beginDraft(db, actor);
      await saveDraft(db, actor, draftId, {
        content: contentOfInput(body.content, null),
        plan: planOf(EMPTY_PLAN, body.plan),
        revision: 1,
        saveOver: false,
      });
      const made = await openAnnouncement(db, actor, draftId);
      return { body: answerOf(made, null), revision: made.revision, location: `/announcements/${draftId}` };
    },
  }),
  announcements('GET /announcements/{id}', {
    id: 'readAnnouncement',
    scope: 'announcements:read',
    summary: 'One announcement with its text and plan',
    answer: announcementAnswer,
    revised: true,
    run: async ({ db, actor, id: of }) => {
      const found = await openAnnouncement(db, actor, of());
      return { body: answerOf(found, await occurrenceOf(db, found.id)), revision: found.revision };
    },
  }),
  announcements('PUT /announcements/{id}', {
    id: 'changeAnnouncement',
    scope: 'announcements:write',
    summary: 'Give a draft another text and plan',
    description:
      'A section that carries the id it was read with keeps its pictures, files and video; one whose text was not changed stays exactly as it was written.',
    body: draftInput,
    answer: announcementAnswer,
    revised: true,
    overRevision: true,
    example: {
      content: { title: 'The lift stands still', sections: [{ text: 'Until **one o’clock**.' }] },
    },
    run: async ({ db, actor, body, revision, id: of }) => {
      const before = await openAnnouncement(db, actor, of());
      await saveDraft(db, actor, before.id, {
        content: contentOfInput(body.content, before.content),
        plan: planOf(before.plan, body.plan),
        revision,
        saveOver: false,
      });
      const now = await openAnnouncement(db, actor, before.id);
      return { body: answerOf(now, null), revision: now.revision };
    },
  }),
  announcements('DELETE /announcements/{id}', {
    id: 'deleteAnnouncement',
    scope: 'announcements:write',
    summary: 'Delete a draft that was never sent',
    run: async ({ db, actor, id: of }) => {
      await discardDraft(db, actor, of());
      return undefined;
    },
  }),
  announcements('POST /announcements/{id}/rehearsal', {
    id: 'rehearseAnnouncement',
    scope: 'announcements:read',
    summary: 'What would happen if it were sent now; nothing leaves',
    answer: z.object({
      people: z.int(),
      byMail: z.int(),
      boards: z.array(z.object({ id, name: z.string() })),
      outside: z.array(z.object({ id, name: z.string() })),
      firstAt: instant.nullable(),
      lastAt: instant.nullable(),
      /** The groups that ask for a second person’s clearance. */
      clearance: z.array(z.string()),
      /** What keeps it from going out. */
      problems,
      warnings: problems,
    }),
    run: async ({ db, actor, id: of }) => {
      const draft = await openAnnouncement(db, actor, of());
      const outlook = await forecast(db, actor, draft.plan, briefOf(draft.content));
      const denied =
        outlook.right.outcome === 'denied' ? [{ field: 'plan', detail: outlook.right.reason }] : [];
      return {
        body: {
          people: outlook.people,
          byMail: outlook.byMail,
          boards: outlook.boards.map((board) => ({ id: board.id, name: board.name })),
          outside: outlook.outside.map((place) => ({ id: place.id, name: place.name })),
          firstAt: atOrNull(outlook.span?.firstMs ?? null),
          lastAt: atOrNull(outlook.span?.lastMs ?? null),
          clearance: outlook.clearance,
          problems: [...contentProblems(draft.content), ...outlook.problems, ...denied],
          warnings: outlook.warnings,
        },
      };
    },
  }),
  announcements('POST /announcements/{id}/send', {
    id: 'sendAnnouncement',
    scope: 'announcements:send',
    summary: 'Send a draft as planned',
    description:
      'It is held for a few seconds, during which it can be taken back. The same Idempotency-Key sends once.',
    answer: z.object({ sendId: id }),
    makes: true,
    overRevision: true,
    keyed: true,
    run: async ({ db, actor, revision, key, id: of }) => {
      const { occurrenceId } = await confirmSend(db, actor, of(), { revision }, key);
      return { body: { sendId: occurrenceId }, location: `/sends/${occurrenceId}` };
    },
  }),
  announcements('POST /announcements/{id}/review', {
    id: 'reviewAnnouncement',
    scope: 'announcements:write',
    summary: 'Hand a draft on for review, clear it, or return it to its author',
    description: 'Nobody clears what they wrote in. A change after that needs clearance again.',
    body: reviewSchema.omit({ revision: true }),
    answer: announcementAnswer,
    revised: true,
    overRevision: true,
    example: { step: 'hand on' },
    run: async ({ db, actor, body, revision, id: of }) => {
      await review(db, actor, of(), { ...body, revision });
      const now = await openAnnouncement(db, actor, of());
      return { body: answerOf(now, null), revision: now.revision };
    },
  }),
  announcements('POST /announcements/{id}/correction', {
    id: 'publishCorrection',
    scope: 'announcements:send',
    summary: 'Publish a correction that was opened and written',
    description:
      'Whoever opens the announcement reads the new text with a visible note; those chosen are sent it.',
    body: correctSchema.omit({ revision: true }),
    answer: z.object({
      /** What was corrected. */
      sendId: id,
      /** The send by which it is told; null where nobody is. */
      toldBySendId: id.nullable(),
    }),
    overRevision: true,
    example: { note: 'The hour', tell: 'everybody' },
    run: async ({ db, actor, body, revision, id: of }) => {
      // Over one revision it is published once: after that it is a correction no more.
      const key = `a.correction.${of()}.${revision}`;
      const { occurrenceId, told } = await publishCorrection(db, actor, of(), { ...body, revision }, key);
      return { body: { sendId: occurrenceId, toldBySendId: told } };
    },
  }),
  audiences('POST /audiences/count', {
    id: 'countAudience',
    scope: 'announcements:read',
    summary: 'How many people an audience is, each once',
    body: z.object({ audience: audienceSchema }).strict(),
    answer: z.object({
      people: z.int(),
      /** The first of them by name. */
      sample: z.array(z.object({ id, name: z.string() })),
    }),
    example: { audience: { kind: 'everyone' } },
    run: async ({ db, actor, body }) => {
      requireDesk(actor);
      return { body: await quickCount(db, actor, body.audience) };
    },
  }),
];
