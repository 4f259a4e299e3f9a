import { z } from 'zod';
import { invitationSchema, withdrawnSchema } from '../../../core/access/schemas.ts';
import { identitySchema } from '../../../core/directory/identity.ts';
import { broughtSchema } from '../../../core/groups/joining.ts';
import { ruleTrialSchema } from '../../../core/groups/schemas.ts';
import { newContactSchema } from '../../../core/people/person.ts';
import { togetherSchema } from '../../../core/people/together.ts';
import { countInvited, withdrawInvitations } from '../../access/service.ts';
import { bringIn } from '../../groups/joining.ts';
import { ruleOutcome } from '../../groups/rules.ts';
import { peopleLacking } from '../../identities/bringing.ts';
import { directoryPage } from '../../identities/service.ts';
import { trustAddress } from '../../people/failing.ts';
import { rightsPage } from '../../people/rights.ts';
import { addContact, listContacts } from '../../people/service.ts';
import { doTogether } from '../../people/together.ts';
import { operationsAbout } from '../operation.ts';
import { id, pageOf } from '../shapes.ts';

const people = operationsAbout('People');
const groups = operationsAbout('Groups');

const contacts = pageOf(
  z.object({ id, name: z.string(), mail: z.string().nullable(), relation: z.string() }),
);
const moved = z.object({ people: z.int(), names: z.array(z.string()) });

/** What is done with several people, or looked up about them. */
export const PEOPLE_DESK = [
  people('POST /people/together', {
    id: 'doTogether',
    scope: 'people:write',
    summary: 'Do one thing to several people: mark them as left, move them, put them into a group',
    body: togetherSchema,
    answer: z.object({
      changed: z.array(id),
      /** At which station each of them was, so that it can be taken back. */
      before: z.array(z.object({ id, stationId: id.nullable() })),
    }),
    example: { ids: [2, 3], act: { kind: 'to station', stationId: 1 } },
    run: async ({ db, actor, body }) => ({ body: await doTogether(db, actor, body) }),
  }),
  people('GET /people/{id}/contacts', {
    id: 'listContacts',
    scope: 'people:read',
    summary: 'Who reads along for somebody, outside the organisation',
    answer: contacts,
    run: async ({ db, actor, id: of }) => ({ body: { items: await listContacts(db, actor, of()) } }),
  }),
  people('POST /people/{id}/contacts', {
    id: 'addContact',
    scope: 'people:write',
    summary: 'Have somebody outside the organisation read along for a person',
    body: newContactSchema.strict(),
    answer: contacts,
    makes: true,
    example: { name: 'Ida Quill', mail: 'ida.quill@example.org', relation: 'delegate' },
    run: async ({ db, actor, body, id: of }) => {
      await addContact(db, actor, of(), body);
      return { body: { items: await listContacts(db, actor, of()) } };
    },
  }),
  people('DELETE /people/{id}/mail-trouble', {
    id: 'trustAddress',
    scope: 'people:write',
    summary: 'Have mail go again to an address from which it came back',
    run: async ({ db, actor, id: of }) => {
      await trustAddress(db, actor, of());
      return undefined;
    },
  }),
  people('POST /invitations/count', {
    id: 'countInvited',
    scope: 'people:read',
    summary: 'How many an invitation would reach; nobody is reached',
    body: invitationSchema.pick({ to: true }),
    answer: z.object({ invited: z.int(), withoutAddress: z.int(), inAlready: z.int() }),
    example: { to: { kind: 'everybody' } },
    run: async ({ db, actor, body }) => ({ body: await countInvited(db, actor, body.to) }),
  }),
  people('POST /invitations/withdrawal', {
    id: 'withdrawInvitations',
    scope: 'people:write',
    summary: 'Withdraw invitations that were not taken up',
    body: withdrawnSchema,
    answer: z.object({ withdrawn: z.int() }),
    example: { ids: [2] },
    run: async ({ db, actor, body }) => ({
      body: { withdrawn: await withdrawInvitations(db, actor, body.ids) },
    }),
  }),
  people('GET /rights', {
    id: 'readRights',
    scope: 'people:read',
    summary: 'Who may do what: coordinators, editors with whom they reach, moderators of boards',
    answer: z.object({
      coordinators: z.array(z.object({ id, name: z.string() })),
      editors: z.array(
        z.object({ id, name: z.string(), reach: z.array(z.object({ id, name: z.string() })) }),
      ),
      boards: z.array(z.object({ id, name: z.string(), moderators: z.array(z.string()) })),
    }),
    run: async ({ db, actor }) => ({ body: await rightsPage(db, actor) }),
  }),
  people('GET /identities', {
    id: 'readIdentities',
    scope: 'people:read',
    summary: 'In which systems people are known, and whom automations did not find',
    answer: z.object({
      systems: z.array(z.object({ system: z.string(), people: z.int() })),
      missing: z.array(
        z.object({
          system: z.string(),
          value: z.string(),
          times: z.int(),
          runId: id,
          automation: z.string(),
        }),
      ),
    }),
    run: async ({ db, actor }) => ({ body: await directoryPage(db, actor) }),
  }),
  people('GET /identities/lacking', {
    id: 'listLacking',
    scope: 'people:read',
    summary: 'Who is not known in a system',
    query: z.object({
      system: identitySchema.shape.system,
      from: z.coerce.number().int().min(0).max(1_000_000).default(0),
    }),
    answer: z.object({
      total: z.int(),
      items: z.array(z.object({ id, name: z.string(), station: z.string().nullable() })),
    }),
    run: async ({ db, actor, query }) => {
      const { total, people: items } = await peopleLacking(db, actor, query.system, query.from);
      return { body: { total, items } };
    },
  }),
  groups('POST /groups/{id}/brought', {
    id: 'bringIntoGroup',
    scope: 'groups:write',
    summary: 'Bring somebody into a group by their mail address: who is not here is invited',
    body: broughtSchema,
    answer: z.object({
      became: z.enum(['was in it already', 'was here, and is in it now', 'is invited']),
      name: z.string(),
    }),
    example: { name: 'Wren Hollis', mail: 'wren.hollis@example.org' },
    run: async ({ db, actor, body, id: of }) => ({ body: await bringIn(db, actor, of(), body) }),
  }),
  groups('POST /groups/{id}/rule-trial', {
    id: 'tryRule',
    scope: 'groups:write',
    summary: 'What another rule of a group would do: who would come in and go out; nothing is changed',
    body: ruleTrialSchema,
    answer: z.object({ people: z.int(), comesIn: moved, goesOut: moved }),
    example: { rule: { kind: 'station', id: 1 }, on: null },
    run: async ({ db, actor, body, id: of }) => ({
      body: await ruleOutcome(db, actor, body.rule, of(), body.on),
    }),
  }),
];
