import { z } from 'zod';
import { editSchema, savedViewSchema, viewSchema } from '../../../core/sheets/viewSchema.ts';
import { notFound } from '../../problem.ts';
import { editRecords } from '../../sheets/editing.ts';
import { gridPart } from '../../sheets/grid.ts';
import { addView, alterView, dropView, viewsOf } from '../../sheets/views.ts';
import { operationsAbout } from '../operation.ts';
import { at, cursorOf, id, instant, pageOf, readCursor } from '../shapes.ts';

const views = operationsAbout('Record sheets');

const VIEW: z.input<typeof savedViewSchema> = {
  name: 'Still on the way',
  shared: false,
  view: {
    if: {
      kind: 'all',
      of: [{ kind: 'test', field: 'record.c1', test: 'is', against: { kind: 'value', value: 'on the way' } }],
    },
    order: [{ column: 'c1', turned: false }],
    hidden: [],
  },
};

/** What a program does with views of a record sheet, and with many records at once. */
export const SHEET_VIEWS = [
  views('GET /record-sheets/{id}/views', {
    id: 'listSheetViews',
    scope: 'records:read',
    summary: 'The views of a record sheet that the owner of the token has: their own, and those of everybody',
    answer: z.object({
      items: z.array(
        z.object({ id, name: z.string(), shared: z.boolean(), mine: z.boolean(), view: viewSchema }),
      ),
    }),
    run: async ({ db, actor, id: of }) => ({ body: { items: await viewsOf(db, actor, of()) } }),
  }),
  views('POST /record-sheets/{id}/views', {
    id: 'keepSheetView',
    scope: 'records:write',
    summary: 'Keep a view of a record sheet: which records, in which order, with which columns',
    body: savedViewSchema,
    answer: z.object({ id }),
    makes: true,
    example: VIEW,
    run: async ({ db, actor, body, id: of }) => ({ body: { id: await addView(db, actor, of(), body) } }),
  }),
  views('PUT /record-sheets/{id}/views/{viewId}', {
    id: 'changeSheetView',
    scope: 'records:write',
    summary: 'Change a view of a record sheet',
    body: savedViewSchema,
    example: VIEW,
    run: async ({ db, actor, body, id: of }) => {
      await alterView(db, actor, of(), of('viewId'), body);
      return undefined;
    },
  }),
  views('DELETE /record-sheets/{id}/views/{viewId}', {
    id: 'deleteSheetView',
    scope: 'records:write',
    summary: 'Delete a view of a record sheet; the records stay',
    run: async ({ db, actor, id: of }) => {
      await dropView(db, actor, of(), of('viewId'));
      return undefined;
    },
  }),
  views('GET /record-sheets/{id}/views/{viewId}/records', {
    id: 'listViewRecords',
    scope: 'records:read',
    summary:
      'The records that a view shows, a hundred at a time, in its order as it was when they were first asked for',
    query: z.object({ after: z.string().optional() }),
    answer: pageOf(z.object({ id, cells: z.record(z.string(), z.string()), changedAt: instant })),
    pages: true,
    run: async ({ db, actor, zone, query, id: of }) => {
      const after = readCursor(z.object({ from: z.int().min(0), asOf: z.string() }), query.after);
      const found = (await viewsOf(db, actor, of())).find((view) => view.id === of('viewId'));
      if (!found) throw notFound('view');
      const looked = { view: found.view, search: '', zone };
      const part = await gridPart(db, actor, of(), looked, after ?? { from: 0, asOf: '' });
      const next = part.from + part.records.length;
      return {
        body: {
          items: part.records.flatMap((record) =>
            record ? [{ id: record.id, cells: record.cells, changedAt: at(record.changedMs) }] : [],
          ),
        },
        after: cursorOf(next < part.total ? { from: next, asOf: part.stamp } : null),
      };
    },
  }),
  views('POST /record-sheets/{id}/edit', {
    id: 'editRecords',
    scope: 'records:write',
    summary: 'Change, add and delete records in one go, or nothing of it',
    body: editSchema,
    answer: z.object({ added: z.array(id) }),
    makes: true,
    example: { change: [{ record: 7, cells: { c1: 'arrived' }, was: { c1: 'on the way' } }] },
    run: async ({ db, actor, body, id: of }) => ({
      body: { added: await editRecords(db, actor, of(), body) },
    }),
  }),
];
