import { z } from 'zod';
import { audienceSchema } from '../../../core/audience/expression.ts';
import { addedSchema, groupChangeSchema, newGroupSchema } from '../../../core/groups/schemas.ts';
import {
  addMembers,
  alterGroup,
  deleteGroup,
  groupMembers,
  groupPage,
  listGroups,
  makeGroup,
  removeMember,
} from '../../groups/making.ts';
import { archiveGroup } from '../../groups/archiving.ts';
import { appointOwner } from '../../groups/service.ts';
import { operationsAbout } from '../operation.ts';
import { cursorOf, id, paged, pageOf, readCursor } from '../shapes.ts';

const groups = operationsAbout('Groups');

const line = z.object({
  id,
  name: z.string(),
  kind: z.enum(['fixed', 'live']),
  archived: z.boolean(),
  needsClearance: z.boolean(),
  owners: z.array(z.object({ id, name: z.string() })),
});

const groupAnswer = line.extend({
  about: z.string(),
  /** How many are in it now; null where its rule cannot be read. */
  people: z.int().nullable(),
  /** Of a live group. */
  rule: audienceSchema.nullable(),
});

export const GROUPS = [
  groups('GET /groups', {
    id: 'listGroups',
    scope: 'groups:read',
    summary: 'The groups, by name',
    answer: z.object({ items: z.array(line) }),
    run: async ({ db, actor }) => ({ body: { items: await listGroups(db, actor) } }),
  }),
  groups('POST /groups', {
    id: 'makeGroup',
    scope: 'groups:write',
    summary: 'Make a group',
    description:
      'With a rule it is live: whoever the rule holds for is in it. Without, its people are picked.',
    body: newGroupSchema,
    answer: groupAnswer,
    makes: true,
    example: { name: 'Relay runners', rule: null },
    run: async ({ db, actor, body }) => {
      const made = await makeGroup(db, actor, body);
      return { body: await groupPage(db, actor, made), location: `/groups/${made}` };
    },
  }),
  groups('GET /groups/{id}', {
    id: 'readGroup',
    scope: 'groups:read',
    summary: 'One group',
    answer: groupAnswer,
    run: async ({ db, actor, id: of }) => ({ body: await groupPage(db, actor, of()) }),
  }),
  groups('PATCH /groups/{id}', {
    id: 'changeGroup',
    scope: 'groups:write',
    summary: 'Rename a group, say what it is for, or give a live one another rule',
    body: groupChangeSchema,
    answer: groupAnswer,
    example: { about: 'Carries the crates up on Fridays.' },
    run: async ({ db, actor, body, id: of }) => {
      await alterGroup(db, actor, of(), body);
      return { body: await groupPage(db, actor, of()) };
    },
  }),
  groups('DELETE /groups/{id}', {
    id: 'deleteGroup',
    scope: 'groups:write',
    summary: 'Delete a group that nothing depends on',
    run: async ({ db, actor, id: of }) => {
      await deleteGroup(db, actor, of());
      return undefined;
    },
  }),
  groups('POST /groups/{id}/archive', {
    id: 'archiveGroup',
    scope: 'groups:write',
    summary: 'Archive a group, or bring it back',
    body: z.object({ archived: z.boolean() }).strict(),
    answer: groupAnswer,
    example: { archived: true },
    run: async ({ db, actor, body, id: of }) => {
      await archiveGroup(db, actor, of(), body.archived);
      return { body: await groupPage(db, actor, of()) };
    },
  }),
  groups('PUT /groups/{id}/owners/{personId}', {
    id: 'appointOwner',
    scope: 'groups:write',
    summary: 'Have somebody look after a group',
    run: async ({ db, actor, id: of }) => {
      await appointOwner(db, actor, of(), of('personId'), true);
      return undefined;
    },
  }),
  groups('DELETE /groups/{id}/owners/{personId}', {
    id: 'releaseOwner',
    scope: 'groups:write',
    summary: 'Have somebody no longer look after a group',
    run: async ({ db, actor, id: of }) => {
      await appointOwner(db, actor, of(), of('personId'), false);
      return undefined;
    },
  }),
  groups('GET /groups/{id}/members', {
    id: 'listMembers',
    scope: 'groups:read',
    summary: 'Who is in a group now, by name',
    query: paged,
    answer: pageOf(z.object({ id, name: z.string(), station: z.string().nullable() })),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const after = readCursor(z.object({ name: z.string(), id }), query.after);
      const { members, next } = await groupMembers(db, actor, of(), after);
      return { body: { items: members }, after: cursorOf(next && { name: next.name, id: next.id }) };
    },
  }),
  groups('POST /groups/{id}/members', {
    id: 'addMembers',
    scope: 'groups:write',
    summary: 'Put people into a fixed group',
    description: 'By id, or by mail address or whole name, one a line. Who is in it already stays in it.',
    body: addedSchema,
    answer: z.object({ added: z.int(), already: z.int(), unknown: z.array(z.string()) }),
    example: { lines: ['maud.fenwright@seedvault.example'] },
    run: async ({ db, actor, body, id: of }) => ({ body: await addMembers(db, actor, of(), body) }),
  }),
  groups('DELETE /groups/{id}/members/{personId}', {
    id: 'removeMember',
    scope: 'groups:write',
    summary: 'Take somebody out of a fixed group',
    run: async ({ db, actor, id: of }) => {
      await removeMember(db, actor, of(), of('personId'));
      return undefined;
    },
  }),
];
