import { z } from 'zod';
import { DECISIONS_ON_CLASH, OUTCOMES } from '../../../core/imports/comparing.ts';
import {
  applySchema,
  clashDecisionSchema,
  importChangeSchema,
  importRowsSchema,
  newImportSchema,
  UNDO_HOURS,
  type ImportSummary,
} from '../../../core/imports/import.ts';
import { applyImport, undoImport } from '../../imports/apply.ts';
import {
  addRows,
  beginImport,
  chooseMarksLeft,
  compareImport,
  decideClash,
  discardImport,
  importLines,
  importMissing,
  importSummary,
  listImports,
} from '../../imports/service.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, cursorOf, id, instant, paged, pageOf, readCursor } from '../shapes.ts';

const imports = operationsAbout('Imports of people');

const importAnswer = z.object({
  id,
  fileName: z.string(),
  by: z.string(),
  madeAt: instant,
  state: z.enum(['open', 'compared', 'applied', 'undone']),
  rows: z.int(),
  counts: z.object(
    Object.fromEntries(OUTCOMES.map((kind) => [kind, z.int()])) as Record<
      (typeof OUTCOMES)[number],
      z.ZodInt
    >,
  ),
  /** How many are here and not in the list. */
  missing: z.int(),
  marksLeft: z.boolean(),
  newStations: z.array(z.string()),
  digest: z.string(),
  appliedAt: instant.nullable(),
  undoneAt: instant.nullable(),
  undoUntil: instant.nullable(),
});

const shown = ({
  madeMs,
  appliedMs,
  undoneMs,
  undoUntilMs,
  ...summary
}: ImportSummary): z.input<typeof importAnswer> => ({
  ...summary,
  madeAt: at(madeMs),
  appliedAt: atOrNull(appliedMs),
  undoneAt: atOrNull(undoneMs),
  undoUntil: atOrNull(undoUntilMs),
});

const line = z.object({
  line: z.int(),
  kind: z.enum(OUTCOMES),
  name: z.string(),
  detail: z.string(),
  personId: id.nullable(),
  changes: z.array(z.object({ what: z.string(), from: z.string(), to: z.string() })),
  why: z.string(),
  choices: z.array(z.enum(DECISIONS_ON_CLASH)),
  decision: z.enum(DECISIONS_ON_CLASH).nullable(),
});

/** A list of people brought in: its rows are handed over, compared with who is here, looked at, and brought in or put away. */
export const IMPORTS = [
  imports('GET /imports', {
    id: 'listImports',
    scope: 'people:read',
    summary: 'The last lists of people that were brought in, or are to be',
    answer: pageOf(importAnswer),
    run: async ({ db, actor }) => ({ body: { items: (await listImports(db, actor)).map(shown) } }),
  }),
  imports('POST /imports', {
    id: 'beginImport',
    scope: 'people:write',
    summary: 'Begin to bring in a list of people',
    description:
      'Then hand over its rows, have them compared, look at what each comes to, decide about clashes, and bring it in. Nobody is changed before that.',
    body: newImportSchema,
    answer: z.object({ id }),
    makes: true,
    example: { fileName: 'staff.csv', columns: { 'E-mail': 'mail' }, dateOrder: 'day first' },
    run: async ({ db, actor, body }) => ({ body: { id: await beginImport(db, actor, body) } }),
  }),
  imports('GET /imports/{id}', {
    id: 'readImport',
    scope: 'people:read',
    summary: 'What a list would do, or did',
    answer: importAnswer,
    run: async ({ db, actor, id: of }) => ({ body: shown(await importSummary(db, actor, of())) }),
  }),
  imports('PUT /imports/{id}', {
    id: 'changeImport',
    scope: 'people:write',
    summary: 'Say whether those who are here and not in the list are marked as left',
    body: importChangeSchema,
    answer: importAnswer,
    example: { marksLeft: false },
    run: async ({ db, actor, body, id: of }) => ({
      body: shown(await chooseMarksLeft(db, actor, of(), body.marksLeft)),
    }),
  }),
  imports('DELETE /imports/{id}', {
    id: 'discardImport',
    scope: 'people:write',
    summary: 'Put a list away that was not brought in',
    run: async ({ db, actor, id: of }) => {
      await discardImport(db, actor, of());
      return undefined;
    },
  }),
  imports('POST /imports/{id}/rows', {
    id: 'addImportRows',
    scope: 'people:write',
    summary: 'Hand over rows of a list, at most 1,000 at once',
    body: importRowsSchema,
    example: { rows: [{ line: 2, name: 'Wren Hollis', mail: 'wren.hollis@example.org', station: 'North' }] },
    run: async ({ db, actor, body, id: of }) => {
      await addRows(db, actor, of(), body.rows);
      return undefined;
    },
  }),
  imports('GET /imports/{id}/rows', {
    id: 'listImportRows',
    scope: 'people:read',
    summary: 'The rows that come to one thing: new, changed, returns, same, clash or wrong',
    query: paged.extend({ kind: z.enum(OUTCOMES).default('new') }),
    answer: pageOf(line),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const from = readCursor(z.object({ line: z.int() }), query.after)?.line ?? 0;
      const { lines, next } = await importLines(db, actor, of(), query.kind, from);
      return { body: { items: lines }, after: cursorOf(next === null ? null : { line: next }) };
    },
  }),
  imports('PUT /imports/{id}/rows/{line}', {
    id: 'decideClash',
    scope: 'people:write',
    summary: 'Decide whose a row is that clashes, or about all rows of which the same can be said',
    body: clashDecisionSchema,
    answer: importAnswer,
    example: { decision: 'leave out', all: false },
    run: async ({ db, actor, body, id: of }) => ({
      body: shown(await decideClash(db, actor, of(), of('line'), body)),
    }),
  }),
  imports('GET /imports/{id}/missing', {
    id: 'listMissing',
    scope: 'people:read',
    summary: 'Who is here and not in the list',
    query: paged,
    answer: pageOf(z.object({ id, name: z.string(), station: z.string().nullable() })),
    pages: true,
    run: async ({ db, actor, query, id: of }) => {
      const from = readCursor(z.object({ name: z.string(), id }), query.after);
      const { people, next } = await importMissing(db, actor, of(), from);
      return { body: { items: people }, after: cursorOf(next && { name: next.name, id: next.id }) };
    },
  }),
  imports('POST /imports/{id}/comparison', {
    id: 'compareImport',
    scope: 'people:write',
    summary: 'Compare the rows with who is here now',
    description: 'The answer’s `digest` stands for all that it would do: bring it in with that.',
    answer: importAnswer,
    run: async ({ db, actor, id: of }) => ({ body: shown(await compareImport(db, actor, of())) }),
  }),
  imports('POST /imports/{id}/application', {
    id: 'applyImport',
    scope: 'people:write',
    summary: 'Bring a list in, all of it or nothing',
    description:
      'Refused with 409 where it would do something else by now than what `digest` stands for: compare it again, and look.',
    body: applySchema,
    answer: importAnswer,
    example: { digest: '9f2c' },
    run: async ({ db, actor, body, id: of }) => ({
      body: shown(await applyImport(db, actor, of(), body.digest)),
    }),
  }),
  imports('DELETE /imports/{id}/application', {
    id: 'undoImport',
    scope: 'people:write',
    summary: `Take a list back that was brought in less than ${UNDO_HOURS} hours ago`,
    answer: z.object({ removed: z.int(), markedLeft: z.int(), restored: z.int(), kept: z.int() }),
    run: async ({ db, actor, id: of }) => ({ body: await undoImport(db, actor, of()) }),
  }),
];
