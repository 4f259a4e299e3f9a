import { sourceTrialSchema } from '../../../core/automation/source.ts';
import { z } from 'zod';
import { tryDatesSchema } from '../../../core/calendar/session.ts';
import { triedCalendarSchema } from '../../../core/calendar/followedSchema.ts';
import { KEPT_KINDS } from '../../../core/retention/kinds.ts';
import { keptChoiceSchema } from '../../../core/retention/choiceSchema.ts';
import { tryDates } from '../../calendar/reading.ts';
import { tryCalendar } from '../../followed/service.ts';
import { filledTemplate } from '../../gateways/outService.ts';
import { foresee } from '../../retention/service.ts';
import { followTrialSchema, tryFollowing } from '../../sheets/following/service.ts';
import { askingIn } from '../../sources/asking.ts';
import { trySource } from '../../sources/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, instant } from '../shapes.ts';

const sessions = operationsAbout('Sessions');
const calendars = operationsAbout('Followed calendars');
const gateways = operationsAbout('Ways in and out');
const automations = operationsAbout('Automations');
const sheets = operationsAbout('Record sheets');
const settings = operationsAbout('Settings');

const samples = z.array(z.object({ pointer: z.string(), sample: z.string() }));

/** What something would come to, before it is made or changed. */
export const TRIALS = [
  sessions('POST /sessions/trial', {
    id: 'trySession',
    scope: 'sessions:read',
    summary: 'When a session would take place, and for how many; nothing is kept',
    body: tryDatesSchema,
    answer: z.object({
      starts: z.array(instant),
      /** Why it never takes place; null where it does. */
      never: z.string().nullable(),
      people: z.int().nullable(),
    }),
    example: {
      wall: '2035-01-08T09:30',
      zone: 'Europe/London',
      rule: null,
      audience: { kind: 'everyone' },
    },
    run: async ({ db, actor, body }) => {
      const { starts, ...found } = await tryDates(db, actor, body);
      return { body: { ...found, starts: starts.map(at) } };
    },
  }),
  calendars('POST /followed-calendars/trial', {
    id: 'tryCalendar',
    scope: 'sessions:read',
    summary: 'What is in a calendar elsewhere, by its address or its text; nothing is kept',
    body: triedCalendarSchema,
    answer: z.object({
      name: z.string(),
      sessions: z.array(z.object({ title: z.string(), startsAt: instant, zone: z.string(), dates: z.int() })),
      total: z.int(),
      warnings: z.array(z.string()),
    }),
    example: { url: 'https://calendar.example/walks.ics', text: null },
    run: async ({ db, actor, body, settings: { LOOKUP_ORIGINS } }) => {
      const { sessions: found, ...calendar } = await tryCalendar(db, actor, body, LOOKUP_ORIGINS);
      return {
        body: {
          ...calendar,
          sessions: found.map(({ startMs, ...session }) => ({ ...session, startsAt: at(startMs) })),
        },
      };
    },
  }),
  gateways('POST /outside-places/trial', {
    id: 'tryTemplate',
    scope: 'gateways:read',
    summary: 'The body an outside place would be handed by a template, of nothing but a trial',
    body: z.object({ template: z.string().max(20_000) }),
    answer: z.object({ body: z.string() }),
    example: { template: '{"text": "{{ title }}"}' },
    run: async ({ db, actor, body, settings: { CLEAR_BELL_URL } }) => ({
      body: await filledTemplate(db, actor, body.template, CLEAR_BELL_URL),
    }),
  }),
  automations('POST /sources/trial', {
    id: 'trySource',
    scope: 'automations:write',
    summary: 'Ask a source and read its answer; for coordinators, nothing is kept',
    body: sourceTrialSchema,
    answer: z.object({
      answer: z.string(),
      values: z.array(z.object({ name: z.string(), value: z.string() })),
      problem: z.string().nullable(),
    }),
    example: {
      source: {
        name: 'Conditions',
        url: 'https://conditions.example/at?place={place}',
        header: '',
        fields: [{ name: 'level', pointer: '/level', kind: 'number', unit: 'cm' }],
        keepMinutes: 10,
      },
      secret: '',
      id: null,
      inputs: { place: 'pond' },
    },
    run: async ({ db, actor, body, settings: set }) => ({
      body: await trySource(db, actor, body, askingIn(set)),
    }),
  }),
  sheets('POST /record-sheets/{id}/source/trial', {
    id: 'trySheetSource',
    scope: 'records:write',
    summary: 'What a source of records answers, and where in it there are lists; nothing is kept',
    body: followTrialSchema,
    answer: z.object({
      lists: z.array(z.object({ pointer: z.string(), rows: z.int(), values: samples })),
      positions: samples,
    }),
    example: { url: 'https://records.example/consignments', header: '', secret: '' },
    run: async ({ db, actor, body, settings: set, id: of }) => ({
      body: await tryFollowing(db, actor, of(), body, askingIn(set)),
    }),
  }),
  settings('GET /retention/foreseen', {
    id: 'foreseeRetention',
    scope: 'settings:read',
    summary: 'What would be forgotten if a kind were kept for so long; without days, for good',
    query: z.object({ kind: z.enum(KEPT_KINDS), days: z.coerce.number().int().positive().optional() }),
    answer: z.object({
      kind: z.enum(KEPT_KINDS),
      days: z.int().nullable(),
      /** How many would go, the oldest, and of how many there are. */
      n: z.int(),
      oldestAt: instant.nullable(),
      of: z.int(),
    }),
    run: async ({ db, actor, query }) => {
      const choice = keptChoiceSchema.parse({ kind: query.kind, days: query.days ?? null });
      const { oldestMs, ...found } = await foresee(db, actor, choice);
      return { body: { ...found, oldestAt: atOrNull(oldestMs) } };
    },
  }),
];
