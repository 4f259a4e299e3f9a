import { sourceInputSchema } from '../../../core/automation/source.ts';
import { z } from 'zod';
import { STANDS } from '../../../core/audience/stands.ts';
import { callOffSchema, dateChangeSchema, saidSchema } from '../../../core/calendar/session.ts';
import { thanksSchema } from '../../../core/thanks/ribbon.ts';
import { boardForDate } from '../../boards/session.ts';
import { announceDate } from '../../calendar/announcing.ts';
import { sayOfDate } from '../../calendar/answering.ts';
import { callOffDate, changeOneDate } from '../../calendar/making.ts';
import { participantPage } from '../../calendar/reading.ts';
import { addSource, alterSource } from '../../sources/service.ts';
import { giveThanks } from '../../thanks/service.ts';
import { operationsAbout } from '../operation.ts';
import { atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const sessions = operationsAbout('Sessions');
const automations = operationsAbout('Automations');
const posts = operationsAbout('Posts');

const made = z.object({ id });

const sourceExample = {
  source: {
    name: 'Conditions',
    url: 'https://conditions.example/at?place={place}',
    header: '',
    fields: [{ name: 'level', pointer: '/level', kind: 'number' as const, unit: 'cm' }],
    keepMinutes: 10,
  },
  secret: '',
};

export const SESSION_DATES = [
  sessions('PUT /session-dates/{id}', {
    id: 'changeSessionDate',
    scope: 'sessions:write',
    summary: 'Move one date of a session, or change where it is; whoever it is for is told',
    body: dateChangeSchema,
    example: { wall: '2030-03-05T11:00', minutes: 60, place: 'The vault', link: '', note: 'An hour later.' },
    run: async ({ db, actor, body, id: of }) => {
      await changeOneDate(db, actor, of(), body);
      return undefined;
    },
  }),
  sessions('POST /session-dates/{id}/call-off', {
    id: 'callOffSessionDate',
    scope: 'sessions:write',
    summary: 'Call one date off; whoever it is for is told',
    body: callOffSchema,
    example: { note: 'The road is under water.' },
    run: async ({ db, actor, body, id: of }) => {
      await callOffDate(db, actor, of(), { off: true, note: body.note });
      return undefined;
    },
  }),
  sessions('DELETE /session-dates/{id}/call-off', {
    id: 'reinstateSessionDate',
    scope: 'sessions:write',
    summary: 'Say that a date takes place after all',
    run: async ({ db, actor, id: of }) => {
      await callOffDate(db, actor, of(), { off: false, note: '' });
      return undefined;
    },
  }),
  sessions('PUT /session-dates/{id}/answer', {
    id: 'answerSessionDate',
    scope: 'sessions:read',
    summary: 'Say whether the owner of the token comes',
    body: saidSchema,
    example: { said: 'yes' },
    run: async ({ db, actor, body, id: of }) => {
      await sayOfDate(db, actor, of(), body.said);
      return undefined;
    },
  }),
  sessions('GET /session-dates/{id}/people', {
    id: 'listWhoComes',
    scope: 'sessions:write',
    summary: 'Who comes to a date, waits, does not come, or has not said',
    query: paged.extend({ stands: z.enum([...STANDS, 'silent', 'all']).default('all') }),
    answer: pageOf(
      z.object({
        personId: id,
        name: z.string(),
        stands: z.enum(STANDS).nullable(),
        saidAt: instant.nullable(),
      }),
    ),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const after = readCursor(z.object({ name: z.string(), personId: id }), query.after);
      const { people, next } = await participantPage(db, actor, of(), { stands: query.stands, after });
      return {
        body: {
          items: people.map(({ personId, name, stands, saidMs }) => ({
            personId,
            name,
            stands,
            saidAt: atOrNull(saidMs),
          })),
        },
        after: cursorOf(next && { name: next.name, personId: next.personId }),
      };
    },
  }),
  sessions('POST /session-dates/{id}/announcement', {
    id: 'announceSessionDate',
    scope: 'announcements:write',
    summary: 'Begin a draft that announces a date to whoever it is for',
    answer: made,
    makes: true,
    run: async ({ db, actor, id: of }) => {
      const draft = await announceDate(db, actor, of());
      return { body: draft, location: `/announcements/${draft.id}` };
    },
  }),
  sessions('POST /session-dates/{id}/board', {
    id: 'makeBoardOfSessionDate',
    scope: 'boards:moderate',
    summary: 'Make a board for those who come to a date',
    answer: made,
    makes: true,
    run: async ({ db, actor, id: of }) => ({ body: { id: await boardForDate(db, actor, of()) } }),
  }),
  automations('POST /sources', {
    id: 'makeSource',
    scope: 'automations:write',
    summary: 'Make a source that automations look things up at; for coordinators',
    body: sourceInputSchema.strict(),
    answer: made,
    makes: true,
    example: sourceExample,
    run: async ({ db, actor, body, settings }) => ({
      body: { id: await addSource(db, actor, body, settings.CLEAR_BELL_SECRET) },
    }),
  }),
  automations('PUT /sources/{id}', {
    id: 'changeSource',
    scope: 'automations:write',
    summary: 'Change a source; an empty secret keeps the one there is',
    body: sourceInputSchema.strict(),
    example: sourceExample,
    run: async ({ db, actor, body, settings, id: of }) => {
      await alterSource(db, actor, of(), body, settings.CLEAR_BELL_SECRET);
      return undefined;
    },
  }),
  posts('POST /thanks', {
    id: 'giveThanks',
    scope: 'boards:write',
    summary: 'Thank people with a ribbon, on a board',
    body: thanksSchema.strict(),
    answer: z.object({ id, state: z.enum(['up', 'held']) }),
    makes: true,
    keyed: true,
    example: { ribbonId: 1, to: [2], sentence: 'For the lamps that were lit all night.', boardId: 1 },
    run: async ({ db, actor, body, key }) => {
      const post = await giveThanks(db, actor, body, key);
      return { body: { id: post.id, state: post.state }, location: `/posts/${post.id}` };
    },
  }),
];
