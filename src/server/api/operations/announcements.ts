import { z } from 'zod';
import { audienceSchema } from '../../../core/audience/expression.ts';
import { contentAnswer, contentAnswerOf, contentInput, contentOfInput } from '../../../core/api/content.ts';
import { contentProblems } from '../../../core/content/announcement.ts';
import { EMPTY_PLAN, planSchema, type Plan } from '../../../core/plan/plan.ts';
import { OCCURRENCE_STATES } from '../../../core/delivery/states.ts';
import type { RunSheetRow } from '../../../core/sends/send.ts';
import { briefOf } from '../../../core/sends/forecast.ts';
import { beginDraft, discardDraft, openAnnouncement, saveDraft } from '../../announcements/service.ts';
import { announcementsPage, type Announcement } from '../../announcements/store.ts';
import { requireDesk } from '../../accounts/require.ts';
import { Problem } from '../../problem.ts';
import { move, moveSchema, takeBack } from '../../sends/changing.ts';
import { confirmSend } from '../../sends/confirming.ts';
import { forecast, quickCount } from '../../sends/forecast.ts';
import { runSheet, withOutcome } from '../../sends/runSheet.ts';
import { occurrenceOf, openOccurrence } from '../../sends/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const announcements = operationsAbout('Announcements');
const sends = operationsAbout('Sends');
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
  contacts: given.contacts ?? before.contacts,
  timing: given.timing ?? before.timing,
  ask: given.ask ?? before.ask,
});

const sendAnswer = z.object({
  id,
  announcementId: id,
  title: z.string(),
  state: z.enum(OCCURRENCE_STATES),
  author: z.string(),
  /** The plan in words. */
  sentence: z.string(),
  dueAt: instant,
  sentAt: instant.nullable(),
  deadlineAt: instant.nullable(),
  inbox: z.int(),
  mailed: z.int(),
  waiting: z.int(),
  failed: z.int(),
  /** How late the last of them was, in milliseconds; null before any has gone. */
  worstLateMs: z.number().nullable(),
  roll: z.object({ asked: z.int(), answered: z.int() }).nullable(),
});

const sendOf = (row: RunSheetRow): z.input<typeof sendAnswer> => ({
  id: row.occurrenceId,
  announcementId: row.announcementId,
  title: row.title,
  state: row.state,
  author: row.author,
  sentence: row.sentence,
  dueAt: at(row.dueMs),
  sentAt: atOrNull(row.sentMs),
  deadlineAt: atOrNull(row.deadlineMs),
  inbox: row.inbox,
  mailed: row.mailed,
  waiting: row.waiting,
  failed: row.failed,
  worstLateMs: row.worstLateMs,
  roll: row.roll && { asked: row.roll.asked, answered: row.roll.answered },
});

const DAY_MS = 86_400_000;
const MOST_DAYS = 35;

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
  sends('GET /sends', {
    id: 'listSends',
    scope: 'announcements:read',
    summary: 'The run sheet: what goes out in a span of time, and what became of it',
    description: `The span is of at most ${MOST_DAYS} days. What recurs beyond what is planned of it, and what automations will say, is not in it.`,
    query: z.object({ from: z.iso.datetime(), to: z.iso.datetime() }),
    answer: z.object({ items: z.array(sendAnswer) }),
    run: async ({ db, actor, query }) => {
      const [fromMs, toMs] = [Date.parse(query.from), Date.parse(query.to)];
      if (!(fromMs < toMs) || toMs - fromMs > MOST_DAYS * DAY_MS) {
        const detail = `“to” comes after “from”, by at most ${MOST_DAYS} days.`;
        throw new Problem(422, detail, { errors: [{ field: 'to', detail }] });
      }
      const found = await runSheet(db, actor, fromMs, toMs);
      return {
        body: { items: found.filter((row) => row.occurrenceId > 0 && row.automationId === null).map(sendOf) },
      };
    },
  }),
  sends('GET /sends/{id}', {
    id: 'readSend',
    scope: 'announcements:read',
    summary: 'How far a send is',
    answer: sendAnswer,
    run: async ({ db, actor, id: of }) => {
      const [row] = await withOutcome(db, actor, [await openOccurrence(db, actor, of())]);
      if (!row) throw new Problem(404, 'There is no such send.');
      return { body: sendOf(row) };
    },
  }),
  sends('POST /sends/{id}/take-back', {
    id: 'takeBackSend',
    scope: 'announcements:send',
    summary: 'Take back what has not gone',
    answer: z.object({
      /** The draft it is again; null where some of it had gone. */
      announcementId: id.nullable(),
    }),
    run: async ({ db, actor, id: of }) => ({ body: await takeBack(db, actor, of()) }),
  }),
  sends('POST /sends/{id}/move', {
    id: 'moveSend',
    scope: 'announcements:send',
    summary: 'Set what has not begun to another time',
    body: moveSchema,
    answer: z.object({ dueAt: instant, warnings: z.array(z.string()) }),
    example: { wall: '2030-09-14T08:30', zone: 'Europe/London' },
    run: async ({ db, actor, body, id: of }) => {
      const moved = await move(db, actor, of(), body);
      return { body: { dueAt: at(moved.dueMs), warnings: moved.warnings } };
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
