import { z } from 'zod';
import { hookInSchema, hookMailSchema, hookTargetSchema } from '../../../core/gateways/hookIn.ts';
import {
  HANDOVER_STATES,
  hookOutSchema,
  OUT_KIND_NAMES,
  placeSchema,
  WAY_OUT_STATES,
} from '../../../core/gateways/hookOut.ts';
import { namedValueSchema, pointerSchema } from '../../../core/automation/source.ts';
import { PLAIN_TEMPLATE } from '../../../core/gateways/placeFields.ts';
import {
  addHookIn,
  alterHookIn,
  deleteHookIn,
  hereIn,
  listHooksIn,
  openHookIn,
  renewHookIn,
  switchHookIn,
} from '../../gateways/inService.ts';
import {
  addHookOut,
  againSchema,
  alterHookOut,
  deleteHookOut,
  listHooksOut,
  openHookOut,
  renewHookOut,
  sendAgain,
  sendTrial,
  switchHookOut,
} from '../../gateways/outService.ts';
import { placeChoices } from '../../gateways/places.ts';
import { requireDesk } from '../../accounts/require.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, id, instant } from '../shapes.ts';

const waysIn = operationsAbout('Ways in');
const waysOut = operationsAbout('Ways out');

const onInput = z.object({ on: z.boolean() }).strict();
const secretAnswer = z.object({
  /** Told this once. */
  secret: z.string(),
});
const madeAnswer = secretAnswer.extend({ id });

const wayInLine = z.object({
  id,
  name: z.string(),
  on: z.boolean(),
  /** What it is for, in words. */
  sentence: z.string(),
  owner: z.string(),
  /** Calls of the last day. */
  taken: z.int(),
  refused: z.int(),
  lastAt: instant.nullable(),
  /** Why the last call was refused; null where it was taken. */
  trouble: z.string().nullable(),
});

const wayIn = z.object({
  id,
  hook: z.object({
    name: z.string(),
    target: hookTargetSchema,
    senderId: id.nullable(),
    held: z.boolean(),
    perMinute: z.int(),
    mapping: z.object({ title: pointerSchema, text: pointerSchema }).nullable(),
    fields: z.array(namedValueSchema),
    mail: hookMailSchema.nullable(),
  }),
  on: z.boolean(),
  owner: z.string(),
  sentence: z.string(),
  /** Where outside systems post to. */
  address: z.string(),
});

const wayOutLine = z.object({
  id,
  name: z.string(),
  state: z.enum(WAY_OUT_STATES),
  whyPaused: z.string().nullable(),
  sentence: z.string(),
  owner: z.string(),
  /** Handovers of the last day, and those that wait. */
  delivered: z.int(),
  failed: z.int(),
  waiting: z.int(),
  lastAt: instant.nullable(),
  trouble: z.string().nullable(),
});

const wayOut = z.object({
  id,
  hook: z.object({
    name: z.string(),
    url: z.string(),
    kinds: z.array(z.enum(OUT_KIND_NAMES)),
    boardId: id.nullable(),
    groupId: id.nullable(),
    place: placeSchema.nullable(),
  }),
  state: z.enum(WAY_OUT_STATES),
  whyPaused: z.string().nullable(),
  owner: z.string(),
  sentence: z.string(),
  /** The last that was handed over, the latest first. */
  handovers: z.array(
    z.object({
      id,
      kind: z.string(),
      madeAt: instant,
      state: z.enum(HANDOVER_STATES),
      attempts: z.int(),
      status: z.int().nullable(),
      reason: z.string().nullable(),
    }),
  ),
});

const IN_EXAMPLE: z.input<typeof hookInSchema> = {
  name: 'The loan system',
  target: { kind: 'board', boardId: 1 },
  senderId: null,
  held: false,
  perMinute: 30,
  mapping: null,
  fields: [],
};
const OUT_EXAMPLE: z.input<typeof hookOutSchema> = {
  name: 'The screens at the gates',
  url: 'https://screens.example/announcements',
  kinds: [],
  boardId: null,
  place: { template: PLAIN_TEMPLATE, changes: true, editors: false },
};

export const GATEWAYS = [
  waysIn('GET /ways-in', {
    id: 'listWaysIn',
    scope: 'gateways:read',
    summary: 'The ways in: coordinators see all, moderators those of their boards',
    answer: z.object({ items: z.array(wayInLine) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listHooksIn(db, actor)).map((line) => ({ ...line, lastAt: atOrNull(line.lastMs) })),
      },
    }),
  }),
  waysIn('POST /ways-in', {
    id: 'makeWayIn',
    scope: 'gateways:write',
    summary: 'Make a way in; its secret is told this once',
    body: hookInSchema,
    answer: madeAnswer,
    makes: true,
    example: IN_EXAMPLE,
    run: async ({ db, actor, body, settings }) => {
      const made = await addHookIn(db, actor, body, settings.CLEAR_BELL_SECRET);
      return { body: made, location: `/ways-in/${made.id}` };
    },
  }),
  waysIn('GET /ways-in/{id}', {
    id: 'readWayIn',
    scope: 'gateways:read',
    summary: 'A way in, with the address outside systems post to',
    answer: wayIn,
    revised: true,
    run: async ({ db, actor, settings, id: of }) => {
      const { revision, ...page } = await openHookIn(db, actor, of(), hereIn(settings));
      return { body: page, revision };
    },
  }),
  waysIn('PUT /ways-in/{id}', {
    id: 'changeWayIn',
    scope: 'gateways:write',
    summary: 'Change a way in; whoever changes it looks after it from then on',
    body: hookInSchema,
    overRevision: true,
    example: IN_EXAMPLE,
    run: async ({ db, actor, body, revision, id: of }) => {
      await alterHookIn(db, actor, of(), { ...body, revision });
      return undefined;
    },
  }),
  waysIn('POST /ways-in/{id}/state', {
    id: 'switchWayIn',
    scope: 'gateways:write',
    summary: 'Open a way in, or switch it off',
    body: onInput,
    example: { on: false },
    run: async ({ db, actor, body, id: of }) => {
      await switchHookIn(db, actor, of(), body.on);
      return undefined;
    },
  }),
  waysIn('POST /ways-in/{id}/secret', {
    id: 'renewWayInSecret',
    scope: 'gateways:write',
    summary: 'Give a way in a new secret; the one before holds no more',
    answer: secretAnswer,
    run: async ({ db, actor, settings, id: of }) => ({
      body: await renewHookIn(db, actor, of(), settings.CLEAR_BELL_SECRET),
    }),
  }),
  waysIn('DELETE /ways-in/{id}', {
    id: 'deleteWayIn',
    scope: 'gateways:write',
    summary: 'Delete a way in with its log; what came by it stays',
    run: async ({ db, actor, id: of }) => {
      await deleteHookIn(db, actor, of());
      return undefined;
    },
  }),
  waysOut('GET /outside-places', {
    id: 'listOutsidePlaces',
    scope: 'announcements:read',
    summary: 'The outside places announcements may travel to',
    description: '`denied` says why the owner of the token may not send there; null where they may.',
    answer: z.object({ items: z.array(z.object({ id, name: z.string(), denied: z.string().nullable() })) }),
    run: async ({ db, actor }) => {
      requireDesk(actor);
      return { body: { items: await placeChoices(db, actor) } };
    },
  }),
  waysOut('GET /ways-out', {
    id: 'listWaysOut',
    scope: 'gateways:read',
    summary: 'The ways out, outside places among them; coordinators alone',
    answer: z.object({ items: z.array(wayOutLine) }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listHooksOut(db, actor)).map((line) => ({ ...line, lastAt: atOrNull(line.lastMs) })),
      },
    }),
  }),
  waysOut('POST /ways-out', {
    id: 'makeWayOut',
    scope: 'gateways:write',
    summary: 'Make a way out, or an outside place; its secret is told this once',
    body: hookOutSchema,
    answer: madeAnswer,
    makes: true,
    example: OUT_EXAMPLE,
    run: async ({ db, actor, body, settings }) => {
      const made = await addHookOut(db, actor, body, settings.CLEAR_BELL_SECRET);
      return { body: made, location: `/ways-out/${made.id}` };
    },
  }),
  waysOut('GET /ways-out/{id}', {
    id: 'readWayOut',
    scope: 'gateways:read',
    summary: 'A way out, with the last that was handed over',
    answer: wayOut,
    revised: true,
    run: async ({ db, actor, id: of }) => {
      const { revision, handovers, ...page } = await openHookOut(db, actor, of());
      return {
        body: { ...page, handovers: handovers.map((each) => ({ ...each, madeAt: at(each.madeMs) })) },
        revision,
      };
    },
  }),
  waysOut('PUT /ways-out/{id}', {
    id: 'changeWayOut',
    scope: 'gateways:write',
    summary: 'Change a way out; what waits for it is tried at once',
    body: hookOutSchema,
    overRevision: true,
    example: OUT_EXAMPLE,
    run: async ({ db, actor, body, revision, id: of }) => {
      await alterHookOut(db, actor, of(), { ...body, revision });
      return undefined;
    },
  }),
  waysOut('POST /ways-out/{id}/state', {
    id: 'switchWayOut',
    scope: 'gateways:write',
    summary: 'Switch a way out on or off',
    body: onInput,
    example: { on: false },
    run: async ({ db, actor, body, id: of }) => {
      await switchHookOut(db, actor, of(), body.on);
      return undefined;
    },
  }),
  waysOut('POST /ways-out/{id}/secret', {
    id: 'renewWayOutSecret',
    scope: 'gateways:write',
    summary: 'Give a way out a new secret; for a day the one before signs too',
    answer: secretAnswer,
    run: async ({ db, actor, settings, id: of }) => ({
      body: await renewHookOut(db, actor, of(), settings.CLEAR_BELL_SECRET),
    }),
  }),
  waysOut('POST /ways-out/{id}/trial', {
    id: 'tryWayOut',
    scope: 'gateways:write',
    summary: 'Hand over a trial that says that it is one',
    run: async ({ db, actor, id: of }) => {
      await sendTrial(db, actor, of());
      return undefined;
    },
  }),
  waysOut('POST /ways-out/{id}/again', {
    id: 'handOverAgain',
    scope: 'gateways:write',
    summary:
      'Hand over again what has ended: one handover, or all made since an instant (milliseconds since 1970)',
    body: againSchema,
    answer: z.object({ events: z.int() }),
    example: { id: 1 },
    run: async ({ db, actor, body, id: of }) => ({ body: await sendAgain(db, actor, of(), body) }),
  }),
  waysOut('DELETE /ways-out/{id}', {
    id: 'deleteWayOut',
    scope: 'gateways:write',
    summary: 'Delete a way out with what waits for it and its log; not while something goes there',
    run: async ({ db, actor, id: of }) => {
      await deleteHookOut(db, actor, of());
      return undefined;
    },
  }),
];
