import { z } from 'zod';
import { KEPT_KINDS } from '../../../core/retention/kinds.ts';
import { keptChoiceSchema } from '../../../core/retention/choiceSchema.ts';
import { senderSchema } from '../../../core/senders/senderSchema.ts';
import { chooseRetention, retention } from '../../retention/service.ts';
import { changeSender, deleteSender, listSenders, makeSender } from '../../senders/service.ts';
import { operationsAbout } from '../operation.ts';
import { atOrNull, id, instant } from '../shapes.ts';

const senders = operationsAbout('Senders');
const keeping = operationsAbout('Retention');

const senderAnswer = z.object({
  id,
  name: z.string(),
  /** How many automations and ways in speak under it. */
  automations: z.int(),
  waysIn: z.int(),
});
/** A picture is given in the application: an upload has no place here. */
const senderInput = senderSchema.pick({ name: true }).strict();

const keptAnswer = z.object({
  kind: z.enum(KEPT_KINDS),
  /** How many days it is kept; null for good. */
  days: z.int().nullable(),
  /** How long it is kept now: another than `days` until a shorter choice holds. */
  daysNow: z.int().nullable(),
  /** When it does; null where it holds. */
  holdsAt: instant.nullable(),
});
const keptOf = (kept: Awaited<ReturnType<typeof retention>>): z.input<typeof keptAnswer>[] =>
  kept.map((each) => ({ ...each, holdsAt: atOrNull(each.fromMs) }));

export const SETTINGS = [
  senders('GET /senders', {
    id: 'listSenders',
    scope: 'gateways:read',
    summary: 'The named senders under which automations and ways in speak',
    answer: z.object({ items: z.array(senderAnswer) }),
    run: async ({ db, actor }) => ({ body: { items: await listSenders(db, actor) } }),
  }),
  senders('POST /senders', {
    id: 'makeSender',
    scope: 'gateways:write',
    summary: 'Make a named sender, without a picture',
    body: senderInput,
    answer: z.object({ id, name: z.string() }),
    makes: true,
    example: { name: 'The vault desk' },
    run: async ({ db, actor, body }) => ({ body: await makeSender(db, actor, { ...body, picture: null }) }),
  }),
  senders('PUT /senders/{id}', {
    id: 'renameSender',
    scope: 'gateways:write',
    summary: 'Give a named sender another name; its picture stays',
    body: senderInput,
    example: { name: 'The vaults' },
    run: async ({ db, actor, body, id: of }) => {
      const picture = (await listSenders(db, actor)).find((each) => each.id === of())?.picture ?? null;
      await changeSender(db, actor, of(), { ...body, picture });
      return undefined;
    },
  }),
  senders('DELETE /senders/{id}', {
    id: 'deleteSender',
    scope: 'gateways:write',
    summary: 'Delete a named sender under which nothing speaks',
    run: async ({ db, actor, id: of }) => {
      await deleteSender(db, actor, of());
      return undefined;
    },
  }),
  keeping('GET /retention', {
    id: 'readRetention',
    scope: 'settings:read',
    summary: 'How long what kind is kept',
    answer: z.object({ items: z.array(keptAnswer) }),
    run: async ({ db, actor }) => ({ body: { items: keptOf(await retention(db, actor)) } }),
  }),
  keeping('PUT /retention', {
    id: 'chooseRetention',
    scope: 'settings:write',
    summary: 'Choose how long a kind is kept; a shorter choice holds after a day',
    body: keptChoiceSchema,
    answer: z.object({ items: z.array(keptAnswer) }),
    example: { kind: 'calls', days: 90 },
    run: async ({ db, actor, body }) => ({ body: { items: keptOf(await chooseRetention(db, actor, body)) } }),
  }),
];
