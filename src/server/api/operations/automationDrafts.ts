import { z } from 'zod';
import { automationSchema, newAutomation } from '../../../core/automation/automation.ts';
import { AUTOMATION_STATES } from '../../../core/automation/automation.ts';
import {
  copyAutomation,
  deleteAutomation,
  makeAutomation,
  publish,
  requireOwn,
  saveDraft,
  takeOver,
} from '../../automations/service.ts';
import { automationPeopleSchema, shareAutomation } from '../../automations/sharing.ts';
import { operationsAbout } from '../operation.ts';
import { id } from '../shapes.ts';

const automations = operationsAbout('Automations');

const EXAMPLE: z.input<typeof automationSchema> = newAutomation('Welcome', { kind: 'joins', groupId: 1 });

/** What a program does with what an automation says; whether it runs, and what it did, is with the automations. */
export const AUTOMATION_DRAFTS = [
  automations('POST /automations', {
    id: 'makeAutomation',
    scope: 'automations:write',
    summary: 'Make an automation as it is written; it is off until it is published',
    body: automationSchema,
    answer: z.object({ id }),
    makes: true,
    example: EXAMPLE,
    run: async ({ db, actor, body }) => {
      const made = await makeAutomation(db, actor, { automation: body });
      return { body: { id: made }, location: `/automations/${made}` };
    },
  }),
  automations('GET /automations/{id}', {
    id: 'readAutomation',
    scope: 'automations:read',
    summary: 'What is written of an automation, and what runs of it',
    answer: z.object({
      id,
      state: z.enum(AUTOMATION_STATES),
      owner: z.string(),
      draft: automationSchema,
      /** As it was published; null where it never was. */
      live: automationSchema.nullable(),
    }),
    revised: true,
    run: async ({ db, actor, id: of }) => {
      const { revision, ...found } = await requireOwn(db, actor, of());
      return { body: found, revision };
    },
  }),
  automations('PUT /automations/{id}', {
    id: 'changeAutomation',
    scope: 'automations:write',
    summary: 'Change what is written of an automation; what runs is what was published',
    body: automationSchema,
    answer: z.object({ revision: z.int() }),
    overRevision: true,
    revised: true,
    example: EXAMPLE,
    run: async ({ db, actor, body, revision, id: of }) => {
      const next = await saveDraft(db, actor, of(), { revision, automation: body });
      return { body: { revision: next }, revision: next };
    },
  }),
  automations('POST /automations/{id}/publish', {
    id: 'publishAutomation',
    scope: 'automations:write',
    summary: 'Put what is written of an automation to work, as a version of its own',
    answer: z.object({ version: z.int() }),
    overRevision: true,
    run: async ({ db, actor, revision, id: of }) => ({ body: await publish(db, actor, of(), revision) }),
  }),
  automations('PUT /automations/{id}/people', {
    id: 'shareAutomation',
    scope: 'automations:write',
    summary: 'Say who may change an automation beside whoever looks after it',
    body: automationPeopleSchema,
    answer: z.object({ people: z.array(z.object({ id, name: z.string() })) }),
    example: { people: [7] },
    run: async ({ db, actor, body, id: of }) => ({ body: await shareAutomation(db, actor, of(), body) }),
  }),
  automations('POST /automations/{id}/copy', {
    id: 'copyAutomation',
    scope: 'automations:write',
    summary: 'Make another of its kind, switched off',
    answer: z.object({ id }),
    makes: true,
    run: async ({ db, actor, id: of }) => {
      const made = await copyAutomation(db, actor, of());
      return { body: { id: made }, location: `/automations/${made}` };
    },
  }),
  automations('POST /automations/{id}/take-over', {
    id: 'takeOverAutomation',
    scope: 'automations:write',
    summary: 'Look after an automation oneself; for coordinators',
    run: async ({ db, actor, id: of }) => {
      await takeOver(db, actor, of());
      return undefined;
    },
  }),
  automations('DELETE /automations/{id}', {
    id: 'deleteAutomation',
    scope: 'automations:write',
    summary: 'Delete an automation that is off with the account of its runs; what it said stays',
    run: async ({ db, actor, id: of }) => {
      await deleteAutomation(db, actor, of());
      return undefined;
    },
  }),
];
