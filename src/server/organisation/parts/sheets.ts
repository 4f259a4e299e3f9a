import { freeName, sameName } from '../../../core/organisation/parts.ts';
import {
  freshColumn,
  MOST_COLUMNS,
  ROWS_AT_ONCE,
  sheetSchema,
  type Cells,
  type SheetColumn,
  type SheetShape,
} from '../../../core/sheets/sheet.ts';
import { count } from '../../../core/words.ts';
import { readCells } from '../../sheets/cells.ts';
import { addRecords, alterSheet, makeSheet } from '../../sheets/service.ts';
import { allSheets, sheetById, type SheetRow } from '../../sheets/store.ts';
import { cellsSum, partOf, readAs, type Bringing, type FoundPart } from './bringing.ts';
import { cellsAfter } from './partsStore.ts';

const PAGE = 2_000;

/** Where each column of a sheet of the archive is here: by name. Null is one that is not here. */
const columnsHere = (
  there: readonly SheetColumn[],
  here: readonly SheetColumn[],
): { from: SheetColumn; to: SheetColumn | null }[] =>
  there.map((from) => ({
    from,
    to: here.find((column) => sameName(column.name) === sameName(from.name)) ?? null,
  }));

const moved = (cells: Cells, ids: ReadonlyMap<string, string>): Cells =>
  Object.fromEntries(
    Object.entries(cells).flatMap(([id, value]) => {
      const to = ids.get(id);
      return to === undefined || value === '' ? [] : [[to, value]];
    }),
  );

/** What sets a record apart: its cells as they are kept, however they were written. */
const sumOf = (columns: readonly SheetColumn[], cells: Cells): string =>
  cellsSum({ ...cells, ...readCells(columns, cells).cells });

/** How often each record is in a sheet here, by its cells. */
async function recordsHere(
  by: Bringing,
  { id: sheetId, columns }: Pick<SheetRow, 'id' | 'columns'>,
): Promise<Map<string, number>> {
  const found = new Map<string, number>();
  for (let after = 0; ;) {
    const page = await cellsAfter(by.db, sheetId, after, PAGE);
    for (const { cells } of page) {
      const sum = sumOf(columns, JSON.parse(cells) as Cells);
      found.set(sum, (found.get(sum) ?? 0) + 1);
    }
    const last = page.at(-1);
    if (!last || page.length < PAGE) return found;
    after = last.id;
  }
}

/** Whether a record is one more than are here; each that is here stands for one. */
function isMore(here: Map<string, number>, sum: string): boolean {
  const left = here.get(sum) ?? 0;
  if (left > 0) here.set(sum, left - 1);
  return left === 0;
}

/** The records of a sheet of the archive that are not here, as many times as they are more. */
async function* recordsMore(
  by: Bringing,
  there: number,
  ids: ReadonlyMap<string, string>,
  columns: readonly SheetColumn[],
  here: Map<string, number>,
): AsyncGenerator<Cells> {
  for await (const row of by.contents.each('records')) {
    if (row.sheet_id !== there) continue;
    const cells = moved(row.cells, ids);
    const sum = sumOf(columns, cells);
    if (isMore(here, sum)) yield cells;
  }
}

/** A sheet of the archive, the one of its name here, and where its columns are in that. */
interface Paired {
  id: number;
  shape: SheetShape;
  mine: SheetRow | undefined;
  columns: ReturnType<typeof columnsHere>;
}

/**
 * How many records each sheet of the archive has, and how many of them are not here; all of them read once. Columns that are not here
 * yet set a record apart from any that is.
 */
async function recordCounts(
  by: Bringing,
  pairs: readonly Paired[],
): Promise<Map<number, { all: number; more: number }>> {
  const counts = new Map(pairs.map(({ id }) => [id, { all: 0, more: 0 }]));
  const beside = new Map<number, { ids: Map<string, string>; mine: SheetRow; known: Map<string, number> }>();
  for (const { id, mine, columns } of pairs)
    if (mine)
      beside.set(id, {
        mine,
        ids: new Map(columns.map(({ from, to }) => [from.id, to?.id ?? `new ${from.id}`])),
        known: await recordsHere(by, mine),
      });
  for await (const { sheet_id, cells } of by.contents.each('records')) {
    const n = counts.get(sheet_id);
    if (!n) continue;
    n.all += 1;
    const here = beside.get(sheet_id);
    if (here && isMore(here.known, sumOf(here.mine.columns, moved(cells, here.ids)))) n.more += 1;
  }
  return counts;
}

/** The record sheets of an archive with their records, beside those here. Records come in; none is changed or taken out. */
export async function sheetParts(by: Bringing): Promise<FoundPart[]> {
  const here = await allSheets(by.db);
  const taken = new Set(here.map(({ name }) => sameName(name)));
  const pairs = (await by.contents.all('sheets')).map((row): Paired => {
    const shape = readAs<SheetShape>(sheetSchema, {
      name: row.name,
      purpose: row.purpose,
      columns: row.columns,
      form: row.form ?? null,
    });
    const mine = here.find((sheet) => sameName(sheet.name) === sameName(row.name));
    return { id: row.id, shape, mine, columns: columnsHere(shape.columns, mine?.columns ?? []) };
  });
  const counts = await recordCounts(by, pairs);
  return pairs.map(({ id, shape, mine, columns }) => {
    const { all: records, more } = counts.get(id) ?? { all: 0, more: 0 };
    const beside = freeName(shape.name, (tried) => taken.has(sameName(tried)), 80);
    const [says, why]: [string[], string[]] = [[], []];
    if (!mine) {
      says.push(count(shape.columns.length, 'column', 'columns'), count(records, 'record', 'records'));
      if (shape.form) says.push('its form, under a new address');
    } else {
      const other = columns.filter(({ from, to }) => to !== null && to.kind !== from.kind);
      const further = columns.filter(({ to }) => to === null);
      for (const { from, to } of other)
        why.push(`Its column “${from.name}” holds ${from.kind} there, and ${to?.kind ?? ''} here.`);
      if (mine.columns.length + further.length > MOST_COLUMNS)
        why.push(`Together it would have more than ${MOST_COLUMNS} columns.`);
      if (further.length > 0)
        says.push(
          `${count(further.length, 'more column', 'more columns')}: ${further.map(({ from }) => from.name).join(', ')}`,
        );
      if (more > 0) says.push(count(more, 'more record', 'more records'));
    }
    const changed = says.length > 0;
    return partOf('sheet', id, {
      name: shape.name,
      state: why.length > 0 ? 'clash' : !mine ? 'new' : changed ? 'changed' : 'same',
      says,
      why,
      needs: [],
      beside: mine && (changed || why.length > 0) ? beside : null,
      bring: async (now, aside) => {
        const called = mine && aside ? beside : shape.name;
        let to = mine?.id ?? 0;
        const ids = new Map(shape.columns.map((column) => [column.id, column.id]));
        if (!mine || aside) to = await makeSheet(now.db, now.actor, { ...shape, name: called });
        else {
          const all = [...mine.columns];
          for (const { from, to: into } of columns) {
            if (into === null) all.push({ ...from, id: freshColumn(all, mine.lastColumn) });
            ids.set(from.id, into?.id ?? all.at(-1)?.id ?? from.id);
          }
          if (all.length > mine.columns.length) {
            const { name, purpose, form, revision } = mine;
            await alterSheet(now.db, now.actor, to, {
              revision,
              shape: { name, purpose, form, columns: all },
            });
          }
        }
        const known = !mine || aside ? new Map<string, number>() : await recordsHere(now, mine);
        const columnsNow = (await sheetById(now.db, to))?.columns ?? [];
        let some: Cells[] = [];
        const put = async (): Promise<void> => {
          if (some.length > 0) await addRecords(now.db, now.actor, to, some);
          some = [];
        };
        for await (const cells of recordsMore(now, id, ids, columnsNow, known)) {
          some.push(cells);
          if (some.length === ROWS_AT_ONCE) await put();
        }
        await put();
        return { id: to, name: (await sheetById(now.db, to))?.name ?? called, path: `/sheets/${to}` };
      },
    });
  });
}
