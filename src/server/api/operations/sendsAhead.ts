import { z } from 'zod';
import { EMPTY_PLAN } from '../../../core/plan/plan.ts';
import { forecastSchema } from '../../../core/sends/forecast.ts';
import { wallTimeSchema } from '../../../core/timing/wallTimeSchema.ts';
import { requireDesk } from '../../accounts/require.ts';
import { boardForSession } from '../../boards/session.ts';
import { strain } from '../../desk/service.ts';
import { openForChange } from '../../sends/changing.ts';
import { comingOf, writeOne } from '../../sends/coming.ts';
import { forecast } from '../../sends/forecast.ts';
import { hoursThatWork } from '../../told/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, id, instant, span, spanOf } from '../shapes.ts';

const sends = operationsAbout('Sends');

const MOST_DAYS = 32;

const problems = z.array(z.object({ field: z.string(), detail: z.string() }));

/** What is looked at before something goes out: whom a plan would reach, how full the days are, and what recurs. */
export const SENDS_AHEAD = [
  sends('POST /forecast', {
    id: 'forecast',
    scope: 'announcements:write',
    summary: 'Whom a plan would reach and when, whom not and why, before anything is written down',
    body: forecastSchema,
    answer: z.object({
      people: z.int(),
      sample: z.array(z.object({ id, name: z.string() })),
      byMail: z.int(),
      contacts: z.int(),
      boards: z.array(z.object({ id, name: z.string(), parts: z.int(), readers: z.int() })),
      outside: z.array(z.object({ id, name: z.string(), standing: z.enum(['on', 'paused', 'off']) })),
      /** How many in all see it on boards. */
      onBoards: z.int(),
      missed: z.array(
        z.object({
          kind: z.string(),
          n: z.int(),
          detail: z.string(),
          remedy: z.string(),
          names: z.array(z.string()),
        }),
      ),
      /** What it would do, as a sentence in parts. */
      phrases: z.array(z.object({ lead: z.string(), words: z.string() })),
      problems,
      warnings: problems,
      right: z.object({ outcome: z.enum(['allowed', 'held', 'denied']), reason: z.string().optional() }),
      /** From the first clock on which it is due to the last. */
      span: z.object({ first: instant, last: instant }).nullable(),
      bands: z.array(z.object({ zone: z.string(), people: z.int(), dueAt: instant, pastHour: z.string() })),
      /** Why it needs clearance; none where it needs none. */
      clearance: z.array(z.string()),
      clockNote: z.string().nullable(),
    }),
    example: {
      plan: { ...EMPTY_PLAN, audience: { kind: 'everyone' } },
      brief: { importance: 'routine', event: null, fields: [], mentions: [], sections: 1 },
    },
    run: async ({ db, actor, body: { plan, brief } }) => {
      requireDesk(actor);
      const { span: over, bands, ...found } = await forecast(db, actor, plan, brief);
      return {
        body: {
          ...found,
          span: over && { first: at(over.firstMs), last: at(over.lastMs) },
          bands: bands.map(({ zone, n, dueMs, pastHour }) => ({
            zone,
            people: n,
            dueAt: at(dueMs),
            pastHour,
          })),
        },
      };
    },
  }),
  sends('GET /strain', {
    id: 'readStrain',
    scope: 'announcements:read',
    summary: 'How much reaches people in a span of time: the fullest days, and what comes to the same people',
    description: `The span is of at most ${MOST_DAYS} days.`,
    query: span,
    answer: z.object({
      clashes: z.array(z.object({ occurrenceIds: z.tuple([z.int(), z.int()]), people: z.int() })),
      days: z.array(
        z.object({
          from: instant,
          /** The most that comes to one person that day. */
          most: z.int(),
          /** To how many more comes than the organisation means to send them. */
          over: z.int(),
        }),
      ),
    }),
    run: async ({ db, actor, zone, query }) => {
      const { fromMs, toMs } = spanOf(query, MOST_DAYS);
      const { clashes, days } = await strain(db, { actor, zone }, fromMs, toMs);
      return {
        body: {
          clashes: clashes.map(({ a, b, people }) => ({ occurrenceIds: [a, b] as [number, number], people })),
          days: days.map(({ startMs, ...day }) => ({ from: at(startMs), ...day })),
        },
      };
    },
  }),
  sends('GET /hours', {
    id: 'readHours',
    scope: 'announcements:read',
    summary: 'At which hours of their own day people open soon what comes to them',
    answer: z.object({
      lines: z.array(
        z.object({
          name: z.string(),
          cells: z.array(z.object({ hour: z.int(), people: z.int(), n: z.int(), soon: z.number() })),
        }),
      ),
      usual: z.number(),
      best: z.object({ hour: z.int(), share: z.number(), people: z.int() }).nullable(),
      announcements: z.int(),
    }),
    run: async ({ db, actor }) => ({ body: await hoursThatWork(db, { actor }) }),
  }),
  sends('GET /sends/{id}/coming', {
    id: 'listComing',
    scope: 'announcements:read',
    summary: 'What of a recurring send is still to come',
    answer: z.object({
      items: z.array(
        z.object({
          /** Null where it is not written yet. */
          occurrenceId: id.nullable(),
          /** The wall-clock time its rule gives: names it. */
          recursAt: z.string(),
          dueAt: instant,
          skipped: z.boolean(),
          moved: z.boolean(),
        }),
      ),
    }),
    run: async ({ db, actor, id: of }) => ({
      body: {
        items: (await comingOf(db, actor, of())).map(({ dueMs, ...each }) => ({ ...each, dueAt: at(dueMs) })),
      },
    }),
  }),
  sends('POST /sends/{id}/coming', {
    id: 'writeComing',
    scope: 'announcements:write',
    summary:
      'Write one date of a recurring send before its turn, so that it can be changed, moved or skipped by itself',
    body: z.object({ recursAt: wallTimeSchema }),
    answer: z.object({ occurrenceId: id }),
    example: { recursAt: '2035-01-15T09:30' },
    run: async ({ db, actor, body, id: of }) => ({ body: await writeOne(db, actor, of(), body.recursAt) }),
  }),
  sends('POST /sends/{id}/change', {
    id: 'openChange',
    scope: 'announcements:write',
    summary:
      'Open what is still to come of a recurring send for a change: a draft until that is sent in its place',
    answer: z.object({ announcementId: id }),
    run: async ({ db, actor, id: of }) => ({ body: await openForChange(db, actor, of(), 'change') }),
  }),
  sends('POST /sends/{id}/board', {
    id: 'makeSendBoard',
    scope: 'boards:moderate',
    summary: 'Make a board for those who signed up for the event of a send, or find the one there is',
    answer: z.object({ id }),
    run: async ({ db, actor, id: of }) => ({ body: { id: await boardForSession(db, actor, of()) } }),
  }),
];
