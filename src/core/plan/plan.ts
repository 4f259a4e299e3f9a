import { z } from 'zod';
import { askProblems, askSchema, type Ask } from '../asks/ask.ts';
import { audienceSchema } from '../audience/expression.ts';
import type { Content, Importance, Problem } from '../content/announcement.ts';
import { eventSpan, type EventDetails } from '../content/event.ts';
import { neverWords } from '../timing/recurrence.ts';
import { ruleSchema } from '../timing/rule.ts';
import { resolveMoment, wallAt } from '../timing/wallTime.ts';
import { momentSchema, wallTimeSchema, zoneSchema } from '../timing/wallTimeSchema.ts';
import { momentWords, zoneWords } from '../timing/words.ts';
import { list } from '../words.ts';
import { bucketsAt, passedSchema, type PlannedBucket } from './buckets.ts';

/**
 * When: now, once the hold has passed; at a wall-clock time in a named zone; at a wall-clock time where each reader
 * is; so many minutes before the event the announcement tells of; or again and again by a rule, in a named zone or,
 * with `zone` null, where each reader is.
 */
export const timingSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('now') }),
  z.object({ kind: z.literal('at'), ...momentSchema.shape }),
  z.object({ kind: z.literal('local'), wall: wallTimeSchema, passed: passedSchema }),
  z.object({
    kind: z.literal('before event'),
    minutes: z
      .int()
      .min(0, 'Not after it has begun')
      .max(60 * 1440, 'At most 60 days before'),
  }),
  z.object({
    kind: z.literal('recurring'),
    start: wallTimeSchema,
    zone: zoneSchema.nullable(),
    rule: ruleSchema,
    passed: passedSchema.default('not'),
  }),
]);
export type Timing = z.infer<typeof timingSchema>;
export type Recurring = Extract<Timing, { kind: 'recurring' }>;

/**
 * A plan is a value: to whom, by which methods, when, and what is asked. It is stored as it is and read aloud as
 * a sentence. Everyone in the audience gets it in the inbox; mail comes on top for those with an address.
 */
export const planSchema = z.object({
  audience: audienceSchema.nullable(),
  mail: z.boolean(),
  boards: z.array(z.int().positive()).max(100),
  /** The outside places it travels to. */
  outside: z.array(z.int().positive()).max(20).default([]),
  /** Whether the linked contacts of those in the audience get a copy by mail. */
  contacts: z.boolean().default(false),
  timing: timingSchema,
  ask: askSchema,
});
export type Plan = z.infer<typeof planSchema>;

export const EMPTY_PLAN: Plan = {
  audience: null,
  mail: true,
  boards: [],
  outside: [],
  contacts: false,
  timing: { kind: 'now' },
  ask: { kind: 'nothing' },
};

/** The plan that the chases of something are sent with, whenever each is due: its methods, and what it asks. */
export const planOfChases = ({ mail, ask }: Plan): Plan => ({ ...EMPTY_PLAN, mail, ask });

/** The plan of one chase: the same methods, to those who were asked and have not answered when it comes due. */
export const planOfChase = (plan: Plan, chases: number, dueMs: number): Plan => ({
  audience: { kind: 'answered', occurrenceId: chases, answered: false },
  mail: plan.mail,
  boards: [],
  outside: [],
  contacts: false,
  timing: { kind: 'at', wall: wallAt(dueMs, 'UTC'), zone: 'UTC' },
  ask: { kind: 'nothing' },
});

/** How long a send is held after the last question before the first message may leave, in milliseconds. */
export const HOLD_MS = 10_000;

/** Whether a send reaches each reader at their own wall-clock time. */
export const isLocal = (timing: Timing): boolean =>
  timing.kind === 'local' || (timing.kind === 'recurring' && timing.zone === null);

/**
 * The buckets of a send that goes out once, confirmed at `nowMs`: one a zone where it goes by each reader's clock,
 * otherwise one. Nothing is due before the hold ends.
 *
 * @param zones the zones people are in, for what goes by their clocks
 */
export function bucketsOnce(
  timing: Exclude<Timing, { kind: 'recurring' }>,
  event: EventDetails | null,
  zones: readonly string[],
  nowMs: number,
): PlannedBucket[] {
  const held = nowMs + HOLD_MS;
  const single = (dueMs: number): PlannedBucket[] => [
    { zone: '', dueMs: Math.max(held, dueMs), hour: 'ordinary', pastHour: 'as planned' },
  ];
  switch (timing.kind) {
    case 'now':
      return single(held);
    case 'at':
      return bucketsAt(timing.wall, timing.zone, [], {}, held);
    case 'local':
      return bucketsAt(timing.wall, null, zones, timing, held);
    case 'before event':
      return single(event ? eventSpan(event).startMs - timing.minutes * 60_000 : held);
  }
}

/** The first and the last instant of some buckets that go out; null where none does. */
export function spanOf(buckets: readonly PlannedBucket[]): { firstMs: number; lastMs: number } | null {
  const due = buckets.filter((bucket) => bucket.pastHour !== 'not').map((bucket) => bucket.dueMs);
  return due.length === 0 ? null : { firstMs: Math.min(...due), lastMs: Math.max(...due) };
}

/** A scheduled time this far past is a mistake to be told of, not "now"; the time it takes to read the last question. */
const STALE_MS = 60_000;

/** What keeps a plan from being confirmed at `nowMs`. Empty when nothing does. */
export function planProblems(
  plan: Plan,
  event: EventDetails | null,
  zones: readonly string[],
  nowMs: number,
): Problem[] {
  const problems: Problem[] = [];
  const { timing, ask } = plan;
  if (!plan.audience && plan.boards.length === 0 && plan.outside.length === 0)
    problems.push({
      field: 'audience',
      detail: 'It goes to nobody. Choose groups, everyone, a board, or an outside place.',
    });
  if (timing.kind === 'at' && resolveMoment(timing).epochMs < nowMs - STALE_MS)
    problems.push({
      field: 'timing.wall',
      detail: 'That time has passed. Choose a later one, or send it now.',
    });
  if (isLocal(timing) && !plan.audience)
    problems.push({
      field: 'timing',
      detail: 'A board has no clock of its own. Choose people, or a time in a named zone.',
    });
  if (timing.kind === 'local' && plan.audience) {
    const span = spanOf(bucketsOnce(timing, event, zones, nowMs));
    const furthest = Math.max(...zones.map((zone) => resolveMoment({ wall: timing.wall, zone }).epochMs));
    if (!span || furthest < nowMs - STALE_MS)
      problems.push({
        field: 'timing.wall',
        detail: 'That time has passed everywhere. Choose a later one, or send it now.',
      });
  }
  if (timing.kind === 'before event') {
    if (!event)
      problems.push({
        field: 'timing',
        detail:
          'It is to go out before an event, and the announcement tells of none. Add the event, or choose a time.',
      });
    else if (eventSpan(event).startMs - timing.minutes * 60_000 < nowMs - STALE_MS)
      problems.push({
        field: 'timing.minutes',
        detail:
          'So long before the event has passed already. Choose a shorter time before it, or send it now.',
      });
  }
  if (timing.kind === 'recurring') {
    const never = neverWords(timing.start, timing.rule);
    if (never) problems.push({ field: 'timing.rule', detail: never });
    if (ask.kind !== 'nothing' && ask.deadline)
      problems.push({
        field: 'ask.deadline',
        detail: 'What recurs needs a deadline that recurs with it: so many hours after it goes out.',
      });
  }
  problems.push(...askProblems(ask));
  if (ask.kind !== 'nothing') {
    if (!plan.audience)
      problems.push({
        field: 'ask',
        detail: 'Answers are asked of people. Choose groups or everyone, not only a board.',
      });
    const span = timing.kind === 'recurring' ? null : spanOf(bucketsOnce(timing, event, zones, nowMs));
    if (span && ask.deadline && resolveMoment(ask.deadline).epochMs <= span.lastMs)
      problems.push({
        field: 'ask.deadline',
        detail:
          span.lastMs > span.firstMs
            ? 'The deadline comes before it has gone out everywhere. Choose a later one.'
            : 'The deadline comes before it goes out. Choose a later one.',
      });
  }
  return problems;
}

/** What does not keep a plan from being confirmed and yet must be told. */
export function planWarnings(
  plan: Plan,
  content: Pick<Content, 'event'>,
  buckets: readonly PlannedBucket[],
  zone: string,
): Problem[] {
  const warnings: Problem[] = [];
  const { event } = content;
  if (event) {
    const { startMs } = eventSpan(event);
    const begins = `${momentWords(startMs, zone)} in ${zoneWords(zone)}`;
    const after = buckets.filter((bucket) => bucket.pastHour !== 'not' && bucket.dueMs >= startMs);
    if (after.length > 0)
      warnings.push({
        field: 'timing',
        detail:
          isLocal(plan.timing) && after.some((bucket) => bucket.zone !== '')
            ? `In ${list(
                after.map((bucket) => zoneWords(bucket.zone)),
                'and',
              )} it comes only after the event has begun (${begins}).`
            : `It comes only after the event has begun (${begins}).`,
      });
  }
  const moved = (pastHour: PlannedBucket['pastHour']): string =>
    list(
      buckets.filter((bucket) => bucket.pastHour === pastHour).map((bucket) => zoneWords(bucket.zone)),
      'and',
    );
  for (const [pastHour, words] of [
    ['at once', 'they get it at once'],
    ['next day', 'they get it a day later'],
    ['not', 'they do not get it'],
  ] as const)
    if (moved(pastHour))
      warnings.push({
        field: 'timing.passed',
        detail: `The hour has passed in ${moved(pastHour)}: ${words}.`,
      });
  const zonesWhere = (hour: PlannedBucket['hour']): string =>
    list(
      buckets
        .filter((bucket) => bucket.zone !== '' && bucket.hour === hour)
        .map((bucket) => zoneWords(bucket.zone)),
      'and',
    );
  if (zonesWhere('skipped'))
    warnings.push({
      field: 'timing.wall',
      detail: `The clock skips that hour in ${zonesWhere('skipped')}: it counts as an hour later there.`,
    });
  if (zonesWhere('repeated'))
    warnings.push({
      field: 'timing.wall',
      detail: `That hour comes twice in ${zonesWhere('repeated')}: the first one counts.`,
    });
  return warnings;
}

/** Whether a reader may stop mail of this kind: routine and important matter that asks for nothing. */
export function mayUnsubscribe(importance: Importance, ask: Ask): boolean {
  return importance !== 'urgent' && ask.kind === 'nothing';
}

/** Whether matter of this importance waits for the end of a reader's quiet hours. Only urgent matter does not. */
export const waitsForMorning = (importance: Importance): boolean => importance !== 'urgent';
