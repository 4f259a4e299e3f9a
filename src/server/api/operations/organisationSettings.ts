import { z } from 'zod';
import { bundlingSchema } from '../../../core/bundling/bundlingSchema.ts';
import { organisationSchema } from '../../../core/first-steps/steps.ts';
import {
  attributeChangeSchema,
  attributeRemovalSchema,
  occupationRenameSchema,
} from '../../../core/people/kinds.ts';
import { stationChangeSchema, stationMergeSchema } from '../../../core/people/person.ts';
import { holidaySchema } from '../../../core/people/working.ts';
import { EMBLEMS, newRibbonSchema, RIBBON_COLOURS } from '../../../core/thanks/ribbon.ts';
import { quietSchema } from '../../../core/timing/quietSchema.ts';
import { requireOrganisation } from '../../accounts/require.ts';
import { chooseBundlingForAll } from '../../bundling/service.ts';
import { alterOrganisation } from '../../first-steps/service.ts';
import { changeAttribute, peopleKinds, removeAttribute, renameOccupation } from '../../people/kinds.ts';
import { chooseQuietForAll } from '../../people/service.ts';
import { alterStation, deleteStation, mergeStation, retireStation } from '../../people/stationService.ts';
import { organisation } from '../../people/store.ts';
import { addHoliday, removeHoliday } from '../../people/workingService.ts';
import { notFound } from '../../problem.ts';
import { addRibbon, changeRibbon } from '../../thanks/service.ts';
import { operationsAbout } from '../operation.ts';
import { id } from '../shapes.ts';

const home = operationsAbout('Organisation');
const stations = operationsAbout('Stations');

export const ORGANISATION_SETTINGS = [
  home('GET /organisation', {
    id: 'readOrganisation',
    scope: 'settings:read',
    summary: 'The name of the organisation and its zone',
    answer: z.object({ name: z.string(), zone: z.string() }),
    run: async ({ db, actor }) => {
      requireOrganisation(actor);
      const found = await organisation(db);
      if (!found) throw notFound('organisation');
      return { body: { name: found.name, zone: found.zone } };
    },
  }),
  home('PUT /organisation', {
    id: 'changeOrganisation',
    scope: 'settings:write',
    summary: 'Change its name and zone',
    body: organisationSchema,
    example: { name: 'The network', zone: 'Europe/London' },
    run: async ({ db, actor, body }) => {
      await alterOrganisation(db, actor, body);
      return undefined;
    },
  }),
  home('PUT /organisation/quiet-hours', {
    id: 'chooseQuietHours',
    scope: 'settings:write',
    summary: 'Choose the hours of quiet of everybody who has not chosen; null is none',
    body: z.object({ quiet: quietSchema.nullable() }).strict(),
    example: { quiet: { from: '22:00', to: '07:00' } },
    run: async ({ db, actor, body }) => {
      await chooseQuietForAll(db, actor, body.quiet);
      return undefined;
    },
  }),
  home('PUT /organisation/bundling', {
    id: 'chooseBundling',
    scope: 'settings:write',
    summary: 'Choose when routine matter comes to everybody who has not chosen',
    body: z.object({ bundling: bundlingSchema }).strict(),
    example: { bundling: 'twice' },
    run: async ({ db, actor, body }) => {
      await chooseBundlingForAll(db, actor, body.bundling);
      return undefined;
    },
  }),
  home('POST /holidays', {
    id: 'addHoliday',
    scope: 'settings:write',
    summary: 'Add a holiday',
    body: holidaySchema,
    answer: z.object({ id }),
    makes: true,
    example: { name: 'Day of rest', on: '2030-05-01', stationId: null },
    run: async ({ db, actor, body }) => ({ body: { id: await addHoliday(db, actor, body) } }),
  }),
  home('DELETE /holidays/{id}', {
    id: 'removeHoliday',
    scope: 'settings:write',
    summary: 'Take a holiday out',
    run: async ({ db, actor, id: of }) => {
      await removeHoliday(db, actor, of());
      return undefined;
    },
  }),
  home('GET /kinds-of-people', {
    id: 'readKindsOfPeople',
    scope: 'people:read',
    summary: 'The occupations and attributes there are',
    answer: z.object({
      occupations: z.array(z.object({ name: z.string(), people: z.int() })),
      attributes: z.array(z.object({ name: z.string(), kind: z.string(), people: z.int() })),
    }),
    run: async ({ db, actor }) => ({ body: await peopleKinds(db, actor) }),
  }),
  home('PUT /kinds-of-people/occupations', {
    id: 'renameOccupation',
    scope: 'people:write',
    summary: 'Rename an occupation of everybody who has it, or take it away',
    body: occupationRenameSchema,
    example: { from: 'driver', to: 'lorry driver' },
    run: async ({ db, actor, body }) => {
      await renameOccupation(db, actor, body);
      return undefined;
    },
  }),
  home('PUT /kinds-of-people/attributes', {
    id: 'changeAttribute',
    scope: 'people:write',
    summary: 'Make an attribute, or change its name or what it holds',
    body: attributeChangeSchema,
    example: { from: null, name: 'shoe size', kind: 'number', choices: [] },
    run: async ({ db, actor, body }) => {
      await changeAttribute(db, actor, body);
      return undefined;
    },
  }),
  home('POST /kinds-of-people/attributes/removal', {
    id: 'removeAttribute',
    scope: 'people:write',
    summary: 'Take an attribute away from everybody',
    body: attributeRemovalSchema,
    example: { name: 'shoe size' },
    run: async ({ db, actor, body }) => {
      await removeAttribute(db, actor, body.name);
      return undefined;
    },
  }),
  home('POST /ribbons', {
    id: 'makeRibbon',
    scope: 'settings:write',
    summary: 'Make a ribbon to give thanks with',
    body: newRibbonSchema,
    answer: z.object({ id }),
    makes: true,
    example: { name: 'Kept the lamps lit', emblem: EMBLEMS[0], colour: RIBBON_COLOURS[0] },
    run: async ({ db, actor, body }) => ({ body: { id: await addRibbon(db, actor, body) } }),
  }),
  home('POST /ribbons/{id}/state', {
    id: 'retireRibbon',
    scope: 'settings:write',
    summary: 'Retire a ribbon, or bring it back',
    body: z.object({ retired: z.boolean() }).strict(),
    example: { retired: true },
    run: async ({ db, actor, body, id: of }) => {
      await changeRibbon(db, actor, of(), body.retired);
      return undefined;
    },
  }),
  stations('PUT /stations/{id}', {
    id: 'changeStation',
    scope: 'people:write',
    summary: 'Change a station',
    body: stationChangeSchema,
    example: { name: 'North Tower', zone: 'Europe/London' },
    run: async ({ db, actor, body, id: of }) => {
      await alterStation(db, actor, of(), body);
      return undefined;
    },
  }),
  stations('POST /stations/{id}/state', {
    id: 'retireStation',
    scope: 'people:write',
    summary: 'Offer a station no more, or offer it again',
    body: z.object({ retired: z.boolean() }).strict(),
    example: { retired: true },
    run: async ({ db, actor, body, id: of }) => {
      await retireStation(db, actor, of(), body.retired);
      return undefined;
    },
  }),
  stations('POST /stations/{id}/merge', {
    id: 'mergeStation',
    scope: 'people:write',
    summary: 'Move everybody of a station to another, and delete it',
    body: stationMergeSchema,
    example: { into: 1 },
    run: async ({ db, actor, body, id: of }) => {
      await mergeStation(db, actor, of(), body);
      return undefined;
    },
  }),
  stations('DELETE /stations/{id}', {
    id: 'deleteStation',
    scope: 'people:write',
    summary: 'Delete a station where nobody is and which nothing names',
    run: async ({ db, actor, id: of }) => {
      await deleteStation(db, actor, of());
      return undefined;
    },
  }),
];
