import { z } from 'zod';
import { ROLL_PARTS } from '../../../core/asks/roll.ts';
import { closeByHand, listAsks, listRoll, openRoll } from '../../asks/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const asks = operationsAbout('Asks');

const KINDS = ['acknowledgement', 'poll', 'check-in'] as const;

const line = z.object({
  /** The send that asks. */
  id,
  kind: z.enum(KINDS),
  title: z.string(),
  author: z.string(),
  dueAt: instant,
  deadlineAt: instant.nullable(),
  closedAt: instant.nullable(),
  asked: z.int(),
  answered: z.int(),
});

export const ASKS = [
  asks('GET /asks', {
    id: 'listAsks',
    scope: 'asks:read',
    summary: 'What was asked, the latest first, and how many have answered',
    description:
      'The latest 200. Coordinators see everybody’s, editors their own, owners of groups the part of their groups.',
    answer: z.object({ items: z.array(line) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listAsks(db, actor)).map((ask) => ({
          id: ask.occurrenceId,
          kind: ask.kind,
          title: ask.title,
          author: ask.author,
          dueAt: at(ask.dueMs),
          deadlineAt: atOrNull(ask.deadlineMs),
          closedAt: atOrNull(ask.closedMs),
          ...ask.tally,
        })),
      },
    }),
  }),
  asks('GET /asks/{id}', {
    id: 'readAsk',
    scope: 'asks:read',
    summary: 'One ask, as a whole and by station',
    answer: z.object({
      id,
      kind: z.enum(KINDS),
      title: z.string(),
      deadlineAt: instant.nullable(),
      closedAt: instant.nullable(),
      asked: z.int(),
      answered: z.int(),
      opened: z.int(),
      stations: z.array(z.object({ name: z.string(), asked: z.int(), answered: z.int() })),
    }),
    run: async ({ db, actor, zone, id: of }) => {
      const roll = await openRoll(db, actor, of(), zone);
      return {
        body: {
          id: roll.occurrenceId,
          kind: roll.kind,
          title: roll.title,
          deadlineAt: atOrNull(roll.deadlineMs),
          closedAt: atOrNull(roll.closedMs),
          ...roll.tally,
          opened: roll.opened,
          stations: roll.stations,
        },
      };
    },
  }),
  asks('GET /asks/{id}/roll', {
    id: 'readRoll',
    scope: 'asks:read',
    summary: 'Who was asked and who has answered, by name',
    description: 'Of a poll without names nobody is told while it is open.',
    query: paged.extend({ part: z.enum(ROLL_PARTS).default('all') }),
    answer: pageOf(
      z.object({
        personId: id,
        name: z.string(),
        station: z.string().nullable(),
        answered: z.boolean(),
        answeredAt: instant.nullable(),
        openedAt: instant.nullable(),
        left: z.boolean(),
      }),
    ),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const after = readCursor(z.object({ name: z.string(), id }), query.after);
      const { people, next } = await listRoll(db, actor, of(), { part: query.part, search: '', after });
      return {
        body: {
          items: people.map((person) => ({
            personId: person.personId,
            name: person.name,
            station: person.station,
            answered: person.answered,
            answeredAt: atOrNull(person.answeredMs),
            openedAt: atOrNull(person.openedMs),
            left: person.left,
          })),
        },
        after: cursorOf(next && { name: next.name, id: next.id }),
      };
    },
  }),
  asks('POST /asks/{id}/close', {
    id: 'closeAsk',
    scope: 'announcements:send',
    summary: 'Close an ask: nobody answers it any more, and nobody is chased',
    run: async ({ db, actor, id: of }) => {
      await closeByHand(db, actor, of());
      return undefined;
    },
  }),
];
