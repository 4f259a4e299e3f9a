import { z } from 'zod';
import { recordSchema, recordsSchema, SEEN_BY, sheetSchema } from '../../../core/sheets/sheet.ts';
import { addRecords, alterRecord, deleteRecord, listSheets, sheetPage } from '../../sheets/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const records = operationsAbout('Record sheets');

const cells = z
  .record(z.string(), z.string())
  .meta({ description: 'Values by the id of their column. A cell that is empty is left out.' });

export const RECORDS = [
  records('GET /record-sheets', {
    id: 'listSheets',
    scope: 'records:read',
    summary: 'The record sheets, by name',
    answer: z.object({
      items: z.array(
        z.object({
          id,
          name: z.string(),
          purpose: z.string(),
          records: z.int(),
          changedAt: instant.nullable(),
        }),
      ),
    }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listSheets(db, actor)).map((sheet) => ({
          ...sheet,
          changedAt: atOrNull(sheet.changedMs),
        })),
      },
    }),
  }),
  records('GET /record-sheets/{id}', {
    id: 'readSheet',
    scope: 'records:read',
    summary: 'One record sheet with its columns',
    answer: z.object({
      id,
      name: z.string(),
      purpose: z.string(),
      revision: z.int(),
      columns: z.array(
        z.object({
          id: z.string(),
          name: z.string(),
          kind: sheetSchema.shape.columns.element.shape.kind,
          unit: z.string(),
          choices: z.array(z.string()),
          formula: z.string().optional(),
        }),
      ),
      seenBy: z.enum(SEEN_BY),
      people: z.array(z.object({ id, name: z.string(), mayChange: z.boolean() })),
      records: z.int(),
    }),
    revised: true,
    run: async ({ db, actor, id: of }) => {
      const sheet = await sheetPage(db, actor, of());
      return { body: { ...sheet, ...sheet.rights, records: sheet.total }, revision: sheet.revision };
    },
  }),
  records('GET /record-sheets/{id}/records', {
    id: 'listRecords',
    scope: 'records:read',
    summary: 'The records of a sheet, the newest first',
    query: paged.extend({ search: z.string().max(100).optional() }),
    answer: pageOf(z.object({ id, cells, changedAt: instant })),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const before = readCursor(z.object({ id }), query.after);
      const page = await sheetPage(db, actor, of(), {
        before: before?.id ?? null,
        search: query.search ?? '',
      });
      return {
        body: {
          items: page.records.map((record) => ({
            id: record.id,
            cells: record.cells,
            changedAt: at(record.changedMs),
          })),
        },
        after: cursorOf(page.next === null ? null : { id: page.next }),
      };
    },
  }),
  records('POST /record-sheets/{id}/records', {
    id: 'addRecords',
    scope: 'records:write',
    summary: 'Add records, all of them or none',
    body: recordsSchema,
    answer: z.object({ added: z.int() }),
    makes: true,
    example: { rows: [{ c1: 'Station', c2: '41' }] },
    run: async ({ db, actor, body, id: of }) => ({
      body: { added: await addRecords(db, actor, of(), body.rows) },
    }),
  }),
  records('PATCH /record-sheets/{id}/records/{recordId}', {
    id: 'changeRecord',
    scope: 'records:write',
    summary: 'Change some cells of a record; those not named stay',
    body: recordSchema,
    example: { cells: { c2: '42' } },
    run: async ({ db, actor, body, id: of }) => {
      await alterRecord(db, actor, of(), of('recordId'), body.cells);
      return undefined;
    },
  }),
  records('DELETE /record-sheets/{id}/records/{recordId}', {
    id: 'deleteRecord',
    scope: 'records:write',
    summary: 'Delete a record',
    run: async ({ db, actor, id: of }) => {
      await deleteRecord(db, actor, of(), of('recordId'));
      return undefined;
    },
  }),
];
