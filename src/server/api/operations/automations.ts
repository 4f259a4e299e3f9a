import { z } from 'zod';
import { AUTOMATION_STATES } from '../../../core/automation/automation.ts';
import { RUN_STATES, type AutomationLine, type RunLine } from '../../../core/automation/run.ts';
import { listRuns, runNow, tryRunAgain } from '../../automations/runs.ts';
import { listAutomations, switchAutomation } from '../../automations/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const automations = operationsAbout('Automations');

export const runAnswer = z.object({
  id,
  automationId: id,
  name: z.string(),
  version: z.int(),
  state: z.enum(RUN_STATES),
  /** What set it off, in words. */
  cause: z.string(),
  dueAt: instant,
  endedAt: instant.nullable(),
  matched: z.int(),
  said: z.int(),
  keptBack: z.int(),
  /** Why it did not do all it might have. */
  reason: z.string().nullable(),
});

const automationAnswer = z.object({
  id,
  name: z.string(),
  state: z.enum(AUTOMATION_STATES),
  whyPaused: z.string().nullable(),
  owner: z.string(),
  /** What it does, in words. */
  sentence: z.string(),
  nextAt: instant.nullable(),
  published: z.boolean(),
  /** Of the last seven days. */
  saidWeek: z.int(),
  keptBackWeek: z.int(),
});

export const runOf = (run: RunLine): z.input<typeof runAnswer> => ({
  ...run,
  dueAt: at(run.dueMs),
  endedAt: atOrNull(run.endedMs),
});

const automationOf = (line: AutomationLine): z.input<typeof automationAnswer> => ({
  ...line,
  nextAt: atOrNull(line.nextMs),
});

export const AUTOMATIONS = [
  automations('GET /automations', {
    id: 'listAutomations',
    scope: 'automations:read',
    summary: 'The automations: coordinators see all, others their own',
    answer: z.object({ items: z.array(automationAnswer) }),
    run: async ({ db, actor }) => ({
      body: { items: (await listAutomations(db, actor)).map(automationOf) },
    }),
  }),
  automations('POST /automations/{id}/state', {
    id: 'switchAutomation',
    scope: 'automations:write',
    summary: 'Switch an automation on or off',
    body: z.object({ on: z.boolean() }).strict(),
    example: { on: false },
    run: async ({ db, actor, body, id: of }) => {
      await switchAutomation(db, actor, of(), body.on);
      return undefined;
    },
  }),
  automations('POST /automations/{id}/runs', {
    id: 'runAutomation',
    scope: 'automations:write',
    summary: 'Run an automation now that a clock sets off, once a key',
    keyed: true,
    run: async ({ db, actor, key, id: of }) => {
      await runNow(db, actor, of(), key);
      return undefined;
    },
  }),
  automations('GET /runs', {
    id: 'listRuns',
    scope: 'automations:read',
    summary: 'What automations did, the latest first',
    query: paged.extend({
      automation: z.coerce.number().int().positive().optional(),
      find: z.string().max(80).optional().describe('Letters in its name, in why, or in what it said'),
    }),
    answer: pageOf(runAnswer),
    pages: true,
    run: async ({ db, actor, query }) => {
      const before = readCursor(z.object({ id }), query.after);
      const { runs, next } = await listRuns(db, actor, {
        automationId: query.automation ?? null,
        find: query.find ?? '',
        states: [],
        before: before?.id ?? null,
      });
      return { body: { items: runs.map(runOf) }, after: cursorOf(next === null ? null : { id: next }) };
    },
  }),
  automations('POST /runs/{id}/again', {
    id: 'tryRunAgain',
    scope: 'automations:write',
    summary: 'Have a run tried again that failed or was kept back; what it said is not said again',
    run: async ({ db, actor, id: of }) => {
      await tryRunAgain(db, actor, of());
      return undefined;
    },
  }),
];
