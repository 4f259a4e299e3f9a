import { z } from 'zod';
import { REACTIONS } from '../../../core/boards/reaction.ts';
import { ASIDE_WORDS, type Aside } from '../../../core/desk/desk.ts';
import type { Figures } from '../../../core/sends/after.ts';
import { after } from '../../after/service.ts';
import { listAside, tryAgain } from '../../aside/service.ts';
import { Problem } from '../../problem.ts';
import { putBack } from '../../sends/coming.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, id, instant } from '../shapes.ts';

const sends = operationsAbout('Sends');

const figuresAnswer = z.object({
  id,
  title: z.string(),
  dueAt: instant,
  reached: z.int(),
  read: z.int(),
  /** Those who may read it on its boards now, and those of them who had it on the screen there. */
  onBoards: z.int(),
  readOnBoards: z.int(),
  asked: z.int(),
  answered: z.int(),
  failed: z.int(),
  /** How late the last of them was, in milliseconds. */
  worstLateMs: z.number().nullable(),
});

const figuresOf = (of: Figures): z.input<typeof figuresAnswer> => ({
  id: of.occurrenceId,
  title: of.title,
  dueAt: at(of.dueMs),
  reached: of.reached,
  read: of.read,
  onBoards: of.onBoards,
  readOnBoards: of.readOnBoards,
  asked: of.asked,
  answered: of.answered,
  failed: of.failed,
  worstLateMs: of.worstLateMs,
});

const ASIDE_KINDS = Object.keys(ASIDE_WORDS) as [Aside['kind'], ...Aside['kind'][]];

/** What became of what has gone, and what of the work on it failed. */
export const AFTERWARDS = [
  sends('GET /sends/{id}/figures', {
    id: 'readFigures',
    scope: 'announcements:read',
    summary: 'Whom a send reached, who read it and who answered, over time and beside the issue before it',
    answer: z.object({
      figures: figuresAnswer,
      before: figuresAnswer.nullable(),
      /** In all, so many minutes after it was due. */
      curve: z.array(z.object({ minutes: z.int(), delivered: z.int(), read: z.int(), answered: z.int() })),
      reactions: z.array(z.object({ kind: z.enum(REACTIONS), times: z.int() })),
      replies: z.int(),
      signUps: z.array(z.object({ sharedBy: z.string(), times: z.int() })),
    }),
    run: async ({ db, actor, id: of }) => {
      const found = await after(db, actor, of());
      return {
        body: {
          figures: figuresOf(found.figures),
          before: found.before && figuresOf(found.before),
          curve: found.curve,
          reactions: found.reactions.map(({ kind, n: times }) => ({ kind, times })),
          replies: found.replies,
          signUps: found.signUps.map(({ sharedBy, n: times }) => ({ sharedBy, times })),
        },
      };
    },
  }),
  sends('POST /sends/{id}/put-back', {
    id: 'putBackSend',
    scope: 'announcements:send',
    summary: 'Have one of what recurs go after all that was skipped',
    run: async ({ db, actor, id: of }) => {
      await putBack(db, actor, of());
      return undefined;
    },
  }),
  sends('GET /set-aside', {
    id: 'listSetAside',
    scope: 'announcements:read',
    summary: 'Work that failed and is set aside, with its reason',
    answer: z.object({
      items: z.array(
        z.object({
          kind: z.enum(ASIDE_KINDS),
          /** What it is about, by which it is tried again. */
          id,
          sendId: id.nullable(),
          title: z.string().nullable(),
          reason: z.string(),
          attempts: z.int(),
          /** When it is tried again by itself; null where it is given up. */
          againAt: instant.nullable(),
        }),
      ),
    }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listAside(db, actor)).map((each) => ({
          kind: each.kind,
          id: each.subjectId,
          sendId: each.occurrenceId,
          title: each.title,
          reason: each.reason,
          attempts: each.attempts,
          againAt: atOrNull(each.tryMs),
        })),
      },
    }),
  }),
  sends('POST /set-aside/again', {
    id: 'trySetAsideAgain',
    scope: 'announcements:send',
    summary: 'Have work tried again at once that is set aside',
    body: z.strictObject({ kind: z.enum(ASIDE_KINDS), id }),
    example: { kind: 'sending', id: 12 },
    run: async ({ db, actor, body: { kind, id: subject } }) => {
      if (!(await listAside(db, actor)).some((each) => each.kind === kind && each.subjectId === subject)) {
        const detail = 'There is no such work set aside, or it is not yours to see. Read which there is.';
        throw new Problem(422, detail, { errors: [{ field: 'id', detail }] });
      }
      await tryAgain(db, actor, kind, subject);
      return undefined;
    },
  }),
];
