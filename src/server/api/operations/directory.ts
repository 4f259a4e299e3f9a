import { z } from 'zod';
import { bringIdentitiesSchema } from '../../../core/directory/bringing.ts';
import { identitySchema } from '../../../core/directory/identity.ts';
import { leaveSchema } from '../../../core/people/leave.ts';
import { addressSchema, mergeSchema, reachSchema } from '../../../core/people/person.ts';
import { bringIdentities } from '../../identities/bringing.ts';
import { addIdentity, listIdentities, removeIdentity } from '../../identities/service.ts';
import { addAddress, listAddresses, preferAddress, removeAddress } from '../../people/addresses.ts';
import { changeReach } from '../../people/service.ts';
import { erasePerson } from '../../people/erasing.ts';
import { chooseLeave } from '../../people/leave.ts';
import { mergePeople } from '../../people/merging.ts';
import { operationsAbout } from '../operation.ts';
import { id } from '../shapes.ts';

const people = operationsAbout('People');

const identities = z.object({ items: z.array(z.object({ id, system: z.string(), value: z.string() })) });
const addresses = z.object({ items: z.array(z.object({ id, mail: z.string() })) });

export const DIRECTORY = [
  people('GET /people/{id}/identities', {
    id: 'listIdentities',
    scope: 'people:read',
    summary: 'What somebody is called in other systems',
    answer: identities,
    run: async ({ db, actor, id: of }) => ({ body: { items: await listIdentities(db, actor, of()) } }),
  }),
  people('POST /people/{id}/identities', {
    id: 'addIdentity',
    scope: 'people:write',
    summary: 'Say what somebody is called in another system',
    body: identitySchema.strict(),
    answer: z.object({ id }),
    makes: true,
    example: { system: 'loans', value: 'w.ashdown' },
    run: async ({ db, actor, body, id: of }) => ({ body: await addIdentity(db, actor, of(), body) }),
  }),
  people('POST /identities', {
    id: 'bringIdentities',
    scope: 'people:write',
    summary: 'Say what many people are called in a system, or look first at what would come of it',
    body: bringIdentitiesSchema,
    answer: z.object({
      made: z.int(),
      there: z.int(),
      leftOut: z.int(),
      told: z.array(z.object({ line: z.int(), who: z.string(), value: z.string(), why: z.string() })),
    }),
    example: {
      system: 'loans',
      rows: [{ line: 2, who: 'wanda.ashdown@example.org', value: 'w.ashdown' }],
      keep: false,
    },
    run: async ({ db, actor, body }) => ({ body: await bringIdentities(db, actor, body) }),
  }),
  people('DELETE /people/{id}/identities/{identity}', {
    id: 'removeIdentity',
    scope: 'people:write',
    summary: 'Take an identity away',
    run: async ({ db, actor, id: of }) => {
      await removeIdentity(db, actor, of(), of('identity'));
      return undefined;
    },
  }),
  people('GET /people/{id}/addresses', {
    id: 'listAddresses',
    scope: 'people:read',
    summary: 'Further mail addresses of somebody',
    answer: addresses,
    run: async ({ db, actor, id: of }) => ({ body: { items: await listAddresses(db, actor, of()) } }),
  }),
  people('POST /people/{id}/addresses', {
    id: 'addAddress',
    scope: 'people:write',
    summary: 'Add a further mail address',
    body: addressSchema.strict(),
    answer: addresses,
    makes: true,
    example: { mail: 'wren.at.home@example.org' },
    run: async ({ db, actor, body, id: of }) => ({
      body: { items: await addAddress(db, actor, of(), body.mail) },
    }),
  }),
  people('PUT /people/{id}/addresses/{address}', {
    id: 'preferAddress',
    scope: 'people:write',
    summary: 'Have mail go to a further address; the one until now becomes a further one',
    run: async ({ db, actor, id: of }) => {
      await preferAddress(db, actor, of(), of('address'));
      return undefined;
    },
  }),
  people('DELETE /people/{id}/addresses/{address}', {
    id: 'removeAddress',
    scope: 'people:write',
    summary: 'Take a further address away',
    run: async ({ db, actor, id: of }) => {
      await removeAddress(db, actor, of(), of('address'));
      return undefined;
    },
  }),
  people('PUT /people/{id}/absence', {
    id: 'chooseLeave',
    scope: 'people:write',
    summary: 'Say from when until when somebody is on leave',
    body: leaveSchema,
    example: { from: '2030-03-09', until: '2030-09-01' },
    run: async ({ db, actor, body, id: of }) => {
      await chooseLeave(db, actor, of(), body);
      return undefined;
    },
  }),
  people('DELETE /people/{id}/absence', {
    id: 'endLeave',
    scope: 'people:write',
    summary: 'Say that somebody is not on leave',
    run: async ({ db, actor, id: of }) => {
      await chooseLeave(db, actor, of(), null);
      return undefined;
    },
  }),
  people('PUT /people/{id}/reach', {
    id: 'changeReach',
    scope: 'people:write',
    summary: 'Choose the groups that an editor reaches',
    body: reachSchema.strict(),
    example: { groupIds: [1] },
    run: async ({ db, actor, body, id: of }) => {
      await changeReach(db, actor, of(), body.groupIds);
      return undefined;
    },
  }),
  people('POST /people/{id}/merge', {
    id: 'mergePeople',
    scope: 'people:write',
    summary: 'Make a second entry of somebody one with this; nothing takes that back',
    description: '`name` is the name of the second entry, said again so that no wrong one is merged.',
    body: mergeSchema.strict(),
    example: { otherId: 2, name: 'Wren Ashdown' },
    run: async ({ db, actor, body, id: of }) => {
      await mergePeople(db, actor, { keep: of(), other: body.otherId, name: body.name });
      return undefined;
    },
  }),
  people('POST /people/{id}/erasure', {
    id: 'erasePerson',
    scope: 'people:write',
    summary: 'Erase somebody who has left; nothing takes that back',
    description: '`name` is their name, said again so that no wrong one is erased.',
    body: z.object({ name: z.string().max(200) }).strict(),
    example: { name: 'Wren Ashdown' },
    run: async ({ db, actor, body, id: of }) => {
      await erasePerson(db, actor, of(), body.name);
      return undefined;
    },
  }),
];
