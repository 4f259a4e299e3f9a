import { z } from 'zod';
import { bundlingSchema } from '../../../core/bundling/bundlingSchema.ts';
import { groupKindSchema } from '../../../core/groups/schemas.ts';
import { doorSchema } from '../../../core/groups/joining.ts';
import { chooseBundlingForGroup } from '../../bundling/service.ts';
import { chooseDoor, decideRequest } from '../../groups/joining.ts';
import { chooseCalling, requireClearance } from '../../groups/service.ts';
import { turnGroup } from '../../groups/turning.ts';
import { operationsAbout } from '../operation.ts';

const groups = operationsAbout('Groups');

export const GROUP_SETTINGS = [
  groups('PUT /groups/{id}/kind', {
    id: 'turnGroup',
    scope: 'groups:write',
    summary: 'Make a group fixed, of whoever is in it now, or live by a rule',
    body: groupKindSchema,
    example: { kind: 'fixed' },
    run: async ({ db, actor, body, id: of }) => {
      await turnGroup(db, actor, of(), body);
      return undefined;
    },
  }),
  groups('PUT /groups/{id}/door', {
    id: 'chooseDoor',
    scope: 'groups:write',
    summary: 'Choose how one comes into a group, and what it is for',
    body: doorSchema,
    example: { joining: 'asked', ownerBrings: true, about: 'Those who drive.' },
    run: async ({ db, actor, body, id: of }) => {
      await chooseDoor(db, actor, of(), body);
      return undefined;
    },
  }),
  groups('PUT /groups/{id}/requests/{person}', {
    id: 'decideRequest',
    scope: 'groups:write',
    summary: 'Let somebody in who asks to come into a group, or not',
    body: z.object({ letIn: z.boolean() }).strict(),
    example: { letIn: true },
    run: async ({ db, actor, body, id: of }) => {
      await decideRequest(db, actor, of(), of('person'), body.letIn);
      return undefined;
    },
  }),
  groups('PUT /groups/{id}/clearance', {
    id: 'chooseClearance',
    scope: 'groups:write',
    summary: 'Choose whether somebody clears what goes to a group',
    body: z.object({ needed: z.boolean() }).strict(),
    example: { needed: true },
    run: async ({ db, actor, body, id: of }) => {
      await requireClearance(db, actor, of(), body.needed);
      return undefined;
    },
  }),
  groups('PUT /groups/{id}/calling', {
    id: 'chooseCalling',
    scope: 'groups:write',
    summary: 'Choose whether a group may be called on',
    body: z.object({ callable: z.boolean() }).strict(),
    example: { callable: true },
    run: async ({ db, actor, body, id: of }) => {
      await chooseCalling(db, actor, of(), body.callable);
      return undefined;
    },
  }),
  groups('PUT /groups/{id}/bundling', {
    id: 'chooseGroupBundling',
    scope: 'groups:write',
    summary: 'Choose when routine matter comes to those in a group; null is as to everybody',
    body: z.object({ bundling: bundlingSchema.nullable() }).strict(),
    example: { bundling: null },
    run: async ({ db, actor, body, id: of }) => {
      await chooseBundlingForGroup(db, actor, of(), body.bundling);
      return undefined;
    },
  }),
];
