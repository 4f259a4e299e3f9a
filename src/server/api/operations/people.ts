import { z } from 'zod';
import { ROLES, STANDINGS } from '../../../core/audience/expression.ts';
import { invitationSchema } from '../../../core/access/schemas.ts';
import {
  newPersonSchema,
  personChangeSchema,
  stationSchema,
  type Person,
} from '../../../core/people/person.ts';
import { peopleAfter } from '../../people/listStore.ts';
import { addPerson, alterPerson, changeStanding } from '../../people/service.ts';
import { hasNoPage, organisation, personById, stationsInUse } from '../../people/store.ts';
import { requireDesk } from '../../accounts/require.ts';
import { notFound } from '../../problem.ts';
import type { Database } from '../../database/connection.ts';
import { invite } from '../../access/service.ts';
import { makeStation } from '../../people/stationService.ts';
import { operationsAbout } from '../operation.ts';
import { cursorOf, id, paged, pageOf, readCursor } from '../shapes.ts';

const people = operationsAbout('People');

const personAnswer = z.object({
  id,
  name: z.string(),
  sortName: z.string(),
  greeting: z.string(),
  mail: z.string().nullable(),
  role: z.enum(ROLES),
  standing: z.enum(STANDINGS),
  stationId: id.nullable(),
  stationName: z.string().nullable(),
  occupation: z.string(),
  zone: z.string().meta({ description: 'IANA time zone.' }),
  joinedOn: z.iso.date(),
  guestUntil: z.iso.date().nullable(),
});

const PAGE = 100;

async function onePerson(db: Database, personId: number): Promise<Person> {
  const found = await personById(db, personId);
  if (!found || (await hasNoPage(db, personId))) throw notFound('person');
  return found;
}

export const PEOPLE = [
  people('GET /people', {
    id: 'listPeople',
    scope: 'people:read',
    summary: 'The directory, in the order people were added',
    description: 'Also those who have left. “search” finds by a part of the name or the mail address.',
    query: paged.extend({ search: z.string().trim().max(100).optional() }),
    answer: pageOf(personAnswer),
    pages: true,
    run: async ({ db, actor, query }) => {
      requireDesk(actor);
      const after = readCursor(z.object({ id }), query.after);
      const found = await peopleAfter(db, after?.id ?? 0, query.search ?? '', PAGE + 1);
      const items = found.slice(0, PAGE);
      const last = found.length > PAGE ? items.at(-1) : undefined;
      return { body: { items }, after: cursorOf(last ? { id: last.id } : null) };
    },
  }),
  people('POST /people', {
    id: 'addPerson',
    scope: 'people:write',
    summary: 'Add somebody',
    description:
      'They are from this moment in every live group whose rule holds for them. They are not invited by it.',
    body: newPersonSchema,
    answer: personAnswer,
    makes: true,
    example: { name: 'Oda Lindqvist', mail: 'oda@seedvault.example', role: 'member', stationId: null },
    run: async ({ db, actor, body }) => {
      const made = await addPerson(db, actor, body, (await organisation(db))?.zone ?? 'UTC');
      return { body: await onePerson(db, made), location: `/people/${made}` };
    },
  }),
  people('GET /people/{id}', {
    id: 'readPerson',
    scope: 'people:read',
    summary: 'One person',
    answer: personAnswer,
    run: async ({ db, actor, id: of }) => {
      requireDesk(actor);
      return { body: await onePerson(db, of()) };
    },
  }),
  people('PATCH /people/{id}', {
    id: 'changePerson',
    scope: 'people:write',
    summary: 'Change what is known of somebody; what is left out stays',
    body: personChangeSchema,
    answer: personAnswer,
    example: { occupation: 'archivist' },
    run: async ({ db, actor, body, id: of }) => ({ body: await alterPerson(db, actor, of(), body) }),
  }),
  people('POST /people/{id}/leave', {
    id: 'markLeft',
    scope: 'people:write',
    summary: 'Mark somebody as left',
    description:
      'They are out at once: their sessions and tokens end, and nothing planned reaches them. What they did stays.',
    run: async ({ db, actor, id: of }) => {
      await changeStanding(db, actor, of(), true);
      return undefined;
    },
  }),
  people('POST /people/{id}/return', {
    id: 'markReturned',
    scope: 'people:write',
    summary: 'Mark somebody who left as here again',
    run: async ({ db, actor, id: of }) => {
      await changeStanding(db, actor, of(), false);
      return undefined;
    },
  }),
  people('POST /invitations', {
    id: 'invite',
    scope: 'people:write',
    summary: 'Invite those who have not signed in yet, by mail',
    description: 'What they were sent before can no longer be used.',
    body: invitationSchema,
    answer: z.object({ invited: z.int(), withoutAddress: z.int(), inAlready: z.int() }),
    example: { to: { kind: 'everybody' }, words: 'Come and see.' },
    run: async ({ db, actor, body }) => ({ body: await invite(db, actor, body) }),
  }),
  people('POST /stations', {
    id: 'makeStation',
    scope: 'people:write',
    summary: 'Make a station: a place with a clock of its own',
    body: stationSchema,
    answer: z.object({ items: z.array(z.object({ id, name: z.string(), zone: z.string() })) }),
    example: { name: 'Long Barrow', zone: 'Europe/London' },
    run: async ({ db, actor, body }) => ({ body: { items: await makeStation(db, actor, body) } }),
  }),
  people('GET /stations', {
    id: 'listStations',
    scope: 'people:read',
    summary: 'The stations in use, by name',
    answer: z.object({ items: z.array(z.object({ id, name: z.string(), zone: z.string() })) }),
    run: async ({ db, actor }) => {
      requireDesk(actor);
      return { body: { items: await stationsInUse(db) } };
    },
  }),
];
