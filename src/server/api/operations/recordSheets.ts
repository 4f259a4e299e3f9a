import { z } from 'zod';
import { sheetRightsSchema, sheetSchema } from '../../../core/sheets/sheet.ts';
import { followingSchema } from '../../../core/sheets/followingSchema.ts';
import { alterSheet, deleteSheet, makeSheet } from '../../sheets/service.ts';
import {
  followingOf,
  followNothing,
  followSource,
  readNowSchema,
  readSheetNow,
} from '../../sheets/following/service.ts';
import { setRights } from '../../sheets/rights.ts';
import { requireDesk } from '../../accounts/require.ts';
import { notFound } from '../../problem.ts';
import { askingIn } from '../../sources/asking.ts';
import { operationsAbout } from '../operation.ts';
import { atOrNull, id, instant } from '../shapes.ts';

const sheets = operationsAbout('Record sheets');

const troubleAnswer = z.object({
  /** Why it could not be read; null where it could. It is tried again either way. */
  trouble: z.string().nullable(),
});

const SHEET: z.input<typeof sheetSchema> = {
  name: 'Consignments',
  purpose: 'Seed on its way between stations.',
  columns: [{ id: 'c1', name: 'State', kind: 'text', unit: '', choices: [] }],
  form: null,
};
const FOLLOWED: z.input<typeof followingSchema> = {
  url: 'https://records.example/consignments',
  header: '',
  everyMinutes: 5,
  rows: '/consignments',
  key: '/id',
  gone: '',
  after: '',
  columns: { c1: '/state' },
};

/** What a program does with record sheets themselves; what is in them is under records. */
export const RECORD_SHEETS = [
  sheets('POST /record-sheets', {
    id: 'makeSheet',
    scope: 'records:write',
    summary: 'Make a record sheet',
    body: sheetSchema,
    answer: z.object({ id }),
    makes: true,
    example: SHEET,
    run: async ({ db, actor, body }) => {
      const made = await makeSheet(db, actor, body);
      return { body: { id: made }, location: `/record-sheets/${made}` };
    },
  }),
  sheets('PUT /record-sheets/{id}', {
    id: 'changeSheet',
    scope: 'records:write',
    summary: 'Change the name, the columns or the form of a record sheet; its records keep what they hold',
    body: sheetSchema,
    overRevision: true,
    example: SHEET,
    run: async ({ db, actor, body, revision, id: of }) => {
      await alterSheet(db, actor, of(), { revision, shape: body });
      return undefined;
    },
  }),
  sheets('PUT /record-sheets/{id}/rights', {
    id: 'setSheetRights',
    scope: 'records:write',
    summary: 'Say who sees a record sheet, and who changes its records beside coordinators',
    body: sheetRightsSchema,
    example: { seenBy: 'named', people: [{ id: 7, mayChange: true }] },
    run: async ({ db, actor, body, id: of }) => {
      await setRights(db, actor, of(), body);
      return undefined;
    },
  }),
  sheets('DELETE /record-sheets/{id}', {
    id: 'deleteSheet',
    scope: 'records:write',
    summary: 'Delete a record sheet with its records; not while an automation reads it',
    run: async ({ db, actor, id: of }) => {
      await deleteSheet(db, actor, of());
      return undefined;
    },
  }),
  sheets('GET /record-sheets/{id}/source', {
    id: 'readSheetSource',
    scope: 'records:read',
    summary: 'The outside source a record sheet follows; 404 where it follows none',
    answer: z.object({
      source: followingSchema,
      /** Whether a secret is sent along; itself it is never shown. */
      hasSecret: z.boolean(),
      records: z.int(),
      readAt: instant.nullable(),
      trouble: z.string().nullable(),
      warnings: z.array(z.string()),
    }),
    revised: true,
    run: async ({ db, actor, id: of }) => {
      requireDesk(actor);
      const found = await followingOf(db, of());
      if (!found) throw notFound('source');
      const { revision, readMs, ...following } = found;
      return { body: { ...following, source: following, readAt: atOrNull(readMs) }, revision };
    },
  }),
  sheets('PUT /record-sheets/{id}/source', {
    id: 'followSource',
    scope: 'records:write',
    summary: 'Have a record sheet follow an outside source, and read it at once',
    description: '`revision` is null where it follows none yet, and otherwise that of its ETag.',
    body: z
      .object({
        source: followingSchema,
        secret: z.string().max(500).default('').meta({ description: 'Empty leaves the one there is.' }),
        revision: z.int().positive().nullable(),
      })
      .strict(),
    answer: troubleAnswer,
    example: { source: FOLLOWED, revision: null },
    run: async ({ db, actor, body, settings, id: of }) => ({
      body: await followSource(db, actor, of(), body, askingIn(settings)),
    }),
  }),
  sheets('POST /record-sheets/{id}/source/read', {
    id: 'readSourceNow',
    scope: 'records:write',
    summary: 'Read what a record sheet follows now; with `force` also where most of it would go',
    body: readNowSchema,
    answer: troubleAnswer,
    example: { force: false },
    run: async ({ db, actor, body, settings, id: of }) => ({
      body: await readSheetNow(db, actor, of(), body.force, askingIn(settings)),
    }),
  }),
  sheets('DELETE /record-sheets/{id}/source', {
    id: 'followNothing',
    scope: 'records:write',
    summary: 'Have a record sheet follow nothing any more; its records stay',
    run: async ({ db, actor, id: of }) => {
      await followNothing(db, actor, of());
      return undefined;
    },
  }),
];
