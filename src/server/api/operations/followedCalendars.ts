import { z } from 'zod';
import { audienceSchema } from '../../../core/audience/expression.ts';
import { followedChangeSchema, followedSchema } from '../../../core/calendar/followedSchema.ts';
import { changeFollowing, follow, followNoMore, listFollowed, readNow } from '../../followed/service.ts';
import { operationsAbout } from '../operation.ts';
import { atOrNull, id, instant } from '../shapes.ts';

const calendars = operationsAbout('Followed calendars');

const calendarAnswer = z.object({
  id,
  revision: z.int(),
  name: z.string(),
  url: z.string().nullable(),
  everyMinutes: z.int(),
  audience: audienceSchema,
  remindMinutes: z.int().nullable(),
  /** How many of its sessions have a date ahead. */
  sessions: z.int(),
  readAt: instant.nullable(),
  trouble: z.string().nullable(),
  warnings: z.array(z.string()),
});

const CALENDAR: z.input<typeof followedSchema> = {
  url: 'https://calendar.example/walks.ics',
  text: null,
  name: 'Walks',
  everyMinutes: 60,
  audience: { kind: 'everyone' },
  remindMinutes: null,
};

export const FOLLOWED_CALENDARS = [
  calendars('GET /followed-calendars', {
    id: 'listFollowedCalendars',
    scope: 'sessions:read',
    summary: 'The calendars elsewhere whose events are sessions here',
    answer: z.object({ items: z.array(calendarAnswer) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listFollowed(db, actor)).map((each) => ({ ...each, readAt: atOrNull(each.readMs) })),
      },
    }),
  }),
  calendars('POST /followed-calendars', {
    id: 'followCalendar',
    scope: 'sessions:write',
    summary: 'Follow a calendar by its address, or bring in the text of one (iCalendar)',
    body: followedSchema,
    answer: z.object({ id }),
    makes: true,
    example: CALENDAR,
    run: async ({ db, actor, body, settings }) => ({
      body: await follow(db, actor, body, settings.LOOKUP_ORIGINS),
    }),
  }),
  calendars('PUT /followed-calendars/{id}', {
    id: 'changeFollowedCalendar',
    scope: 'sessions:write',
    summary: 'Change how a calendar is followed; `text` is another file, or null to keep what there is',
    body: followedChangeSchema,
    example: { ...CALENDAR, revision: 1 },
    run: async ({ db, actor, body, settings, id: of }) => {
      await changeFollowing(db, actor, of(), body, settings.LOOKUP_ORIGINS);
      return undefined;
    },
  }),
  calendars('POST /followed-calendars/{id}/read', {
    id: 'readFollowedCalendar',
    scope: 'sessions:write',
    summary: 'Read a calendar now, though it takes most of its sessions out',
    run: async ({ db, actor, settings, id: of }) => {
      await readNow(db, actor, of(), settings.LOOKUP_ORIGINS);
      return undefined;
    },
  }),
  calendars('DELETE /followed-calendars/{id}', {
    id: 'unfollowCalendar',
    scope: 'sessions:write',
    summary: 'Follow a calendar no more; its sessions ahead go, or stay as our own',
    query: z.object({ keep: z.enum(['yes', 'no']).default('no') }),
    run: async ({ db, actor, query, id: of }) => {
      await followNoMore(db, actor, of(), query.keep === 'yes');
      return undefined;
    },
  }),
];
