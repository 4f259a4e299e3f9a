import { z } from 'zod';
import { STANDS } from '../../../core/audience/stands.ts';
import { callOffSchema, sessionChangeSchema, sessionSchema } from '../../../core/calendar/session.ts';
import type { SessionPage, ShownDate } from '../../../core/calendar/shown.ts';
import { callOffSession, changeSession, makeSession } from '../../calendar/making.ts';
import { calendarPage, sessionPage } from '../../calendar/reading.ts';
import { operationsAbout } from '../operation.ts';
import { at, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const sessions = operationsAbout('Sessions');

const dateAnswer = z.object({
  id,
  sessionId: id,
  title: z.string(),
  startsAt: instant,
  minutes: z.int(),
  zone: z.string().meta({ description: 'IANA time zone it was set in.' }),
  place: z.string(),
  link: z.string(),
  calledOff: z.boolean(),
  note: z.string(),
  capacity: z.int().nullable(),
  coming: z.int(),
  perhaps: z.int(),
  waiting: z.int(),
  /** What the owner of the token has said. */
  mine: z.enum(STANDS).nullable(),
});

const dateOf = ({ startMs, ...date }: ShownDate): z.input<typeof dateAnswer> => ({
  ...date,
  startsAt: at(startMs),
});

const sessionAnswer = z.object({
  id,
  revision: z.int(),
  ...sessionSchema.shape,
  calledOff: z.boolean(),
  /** How many it is for now. */
  people: z.int(),
  dates: z.array(dateAnswer),
});

const answerOf = (page: SessionPage) => ({
  body: { ...page, dates: page.dates.map(dateOf) },
  revision: page.revision,
});

export const SESSIONS = [
  sessions('GET /session-dates', {
    id: 'listSessionDates',
    scope: 'sessions:read',
    summary: 'The dates ahead, by when they begin',
    description: 'Those that are for the owner of the token; with “all”, a coordinator sees everybody’s.',
    query: paged.extend({ all: z.enum(['true', 'false']).default('false') }),
    answer: pageOf(dateAnswer),
    pages: true,
    run: async ({ db, actor, query }) => {
      const after = readCursor(z.object({ startMs: z.number(), id }), query.after);
      const { dates, next } = await calendarPage(db, actor, { everybodys: query.all === 'true', after });
      return {
        body: { items: dates.map(dateOf) },
        after: cursorOf(next && { startMs: next.startMs, id: next.id }),
      };
    },
  }),
  sessions('POST /sessions', {
    id: 'makeSession',
    scope: 'sessions:write',
    summary: 'Make a session, once or recurring (RFC 5545 rules)',
    body: sessionSchema,
    answer: sessionAnswer,
    makes: true,
    revised: true,
    example: {
      title: 'Vault drill',
      text: 'Lids, labels, logs.',
      wall: '2030-03-05T10:00',
      zone: 'Europe/London',
      minutes: 60,
      place: 'The vault',
      link: '',
      rule: null,
      audience: { kind: 'everyone' },
      capacity: 20,
      remindMinutes: 60,
    },
    run: async ({ db, actor, body }) => {
      const { id: made } = await makeSession(db, actor, body);
      return { ...answerOf(await sessionPage(db, actor, made)), location: `/sessions/${made}` };
    },
  }),
  sessions('GET /sessions/{id}', {
    id: 'readSession',
    scope: 'sessions:read',
    summary: 'One session with its dates',
    answer: sessionAnswer,
    revised: true,
    run: async ({ db, actor, id: of }) => answerOf(await sessionPage(db, actor, of())),
  }),
  sessions('PUT /sessions/{id}', {
    id: 'changeSession',
    scope: 'sessions:write',
    summary: 'Change a session and its dates ahead',
    description: 'Where times or places change, whoever it is for is told once.',
    body: sessionChangeSchema.omit({ revision: true }),
    answer: sessionAnswer,
    revised: true,
    overRevision: true,
    run: async ({ db, actor, body, revision, id: of }) =>
      answerOf(await changeSession(db, actor, of(), { ...body, revision })),
  }),
  sessions('POST /sessions/{id}/call-off', {
    id: 'callOffSession',
    scope: 'sessions:write',
    summary: 'Call a session off with all its dates ahead; whoever it is for is told',
    body: callOffSchema,
    answer: sessionAnswer,
    revised: true,
    example: { note: 'The drill is moved to autumn.' },
    run: async ({ db, actor, body, id: of }) => answerOf(await callOffSession(db, actor, of(), body.note)),
  }),
];
