import { z } from 'zod';
import { automationSchema, newAutomation } from '../../../core/automation/automation.ts';
import { REPLAY_WEEKS, replay, replaySchema } from '../../automations/replay.ts';
import { openRun } from '../../automations/runs.ts';
import { sendTrial, trialSchema, tryAutomation } from '../../automations/trial.ts';
import { automationVersion } from '../../automations/versions.ts';
import { askingIn } from '../../sources/asking.ts';
import { operationsAbout } from '../operation.ts';
import { at, id, instant } from '../shapes.ts';
import { runAnswer, runOf } from './automations.ts';

const automations = operationsAbout('Automations');

const EXAMPLE: z.input<typeof automationSchema> = newAutomation('Welcome', { kind: 'joins', groupId: 1 });

const lines = z.array(z.object({ kind: z.enum(['same', 'in', 'out']), text: z.string() }));

/** What an automation would do, would have done, and did: looked at closely. */
export const AUTOMATION_TRIALS = [
  automations('GET /automations/{id}/versions/{version}', {
    id: 'readAutomationVersion',
    scope: 'automations:read',
    summary: 'An automation as it was put to work, with what changed in it then and since',
    answer: z.object({
      automation: automationSchema,
      /** What was changed in it, beside the version before. */
      until: lines,
      /** What was changed since, beside what is written now. */
      since: lines,
      same: z.boolean(),
    }),
    run: async ({ db, actor, id: of }) => ({
      body: await automationVersion(db, actor, of(), of('version')),
    }),
  }),
  automations('POST /automations/{id}/trial', {
    id: 'tryAutomation',
    scope: 'automations:write',
    summary: 'What an automation would say if it was set off now; nobody is reached',
    body: trialSchema,
    answer: z.object({
      cause: z.string(),
      /** How many records or people were looked at, and how many meet its conditions. */
      considered: z.int(),
      matched: z.int(),
      values: z.array(z.object({ label: z.string(), value: z.string() })),
      sayings: z.array(
        z.object({
          about: z.string(),
          whom: z.string(),
          people: z.int().nullable(),
          boards: z.array(z.string()),
          outside: z.array(z.string()),
          mail: z.boolean(),
          due: z.string(),
          title: z.string(),
          from: z.string(),
          html: z.string(),
          otherwise: z.boolean(),
          reason: z.string().nullable(),
          /** Why this would be kept back; null where it would be said. */
          keptBack: z.string().nullable(),
        }),
      ),
      /** How many more it would say than are shown. */
      more: z.int(),
      problem: z.string().nullable(),
    }),
    example: { automation: EXAMPLE, personId: null, recordId: null },
    run: async ({ db, actor, body, settings, id: of }) => ({
      body: await tryAutomation(db, actor, of(), body, askingIn(settings)),
    }),
  }),
  automations('POST /automations/{id}/trial/send', {
    id: 'sendAutomationTrial',
    scope: 'announcements:send',
    summary: 'Send what an automation would say first to the token’s owner alone',
    body: trialSchema,
    answer: z.object({ occurrenceId: id }),
    makes: true,
    keyed: true,
    example: { automation: EXAMPLE, personId: null, recordId: null },
    run: async ({ db, actor, body, key, settings, id: of }) => ({
      body: await sendTrial(db, actor, of(), body, askingIn(settings), key),
    }),
  }),
  automations('POST /automations/{id}/replay', {
    id: 'replayAutomation',
    scope: 'automations:write',
    summary: `What an automation would have done in the last ${REPLAY_WEEKS} weeks; nobody is reached`,
    body: replaySchema,
    answer: z.object({
      from: instant,
      to: instant,
      runs: z.int(),
      said: z.int(),
      keptBack: z.int(),
      people: z.int(),
      days: z.array(z.object({ date: z.string(), runs: z.int(), said: z.int(), people: z.int() })),
      busiest: z.object({ at: instant, said: z.int() }).nullable(),
      /** Whom it would have reached most often. */
      most: z.array(z.object({ name: z.string(), times: z.int() })),
      /** Who would not have been found, by what they are called elsewhere. */
      missing: z.array(z.string()),
      /** How often it really spoke in that time. */
      reallySaid: z.int(),
      notes: z.array(z.string()),
    }),
    example: EXAMPLE,
    run: async ({ db, actor, body, id: of }) => {
      const { fromMs, toMs, busiest, ...found } = await replay(db, actor, of(), body);
      return {
        body: {
          ...found,
          from: at(fromMs),
          to: at(toMs),
          busiest: busiest && { at: at(busiest.atMs), said: busiest.said },
        },
      };
    },
  }),
  automations('GET /runs/{id}', {
    id: 'readRun',
    scope: 'automations:read',
    summary:
      'A run of an automation: what it was about, what it said of each, and why it kept something back',
    answer: runAnswer.extend({
      sayings: z.array(
        z.object({
          about: z.string(),
          occurrenceId: id.nullable(),
          otherwise: z.boolean(),
          reason: z.string().nullable(),
          missing: z.object({ system: z.string(), value: z.string() }).nullable(),
        }),
      ),
    }),
    run: async ({ db, actor, id: of }) => {
      const run = await openRun(db, actor, of());
      return { body: { ...runOf(run), sayings: run.sayings } };
    },
  }),
];
