import { conditionProblems, holdsFor, type ReadAt } from '../../core/automation/condition.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { PART, type GridPart } from '../../core/sheets/grid.ts';
import { fieldsOfSheet, fitted, isAlways, type SheetView } from '../../core/sheets/view.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { narrowing, PASSES } from './conditionStore.ts';
import { newestIds, orderedIds, recordsInOrder, stampOf } from './gridStore.ts';
import { requireSeeing } from './rights.ts';
import { recordsByIds, type SheetRow } from './store.ts';

/** What is looked at: a view of a sheet, and what is looked for in it. */
export interface Looked {
  view: SheetView;
  search: string;
  /** The zone whose calendar days count in conditions. */
  zone: string;
}

type Orders = Map<string, { madeMs: number; ids: Promise<readonly number[]>; size: number }>;
/** Orders that were made lately, by what was looked at and the stamp of the sheet: the longest unused first. */
const ordersIn = new WeakMap<Database, Orders>();

function ordersOf(db: Database): Orders {
  let orders = ordersIn.get(db);
  if (!orders) {
    orders = new Map();
    ordersIn.set(db, orders);
  }
  return orders;
}
const MOST_ORDERS = 40;
/** Of all orders together: a few of the largest sheets, or very many of the usual ones. */
const MOST_IDS = 4_000_000;
/** After so long a view is looked at anew, since conditions may be of the present. */
const ANEW_MS = 60_000;

function kept(
  orders: Orders,
  key: string,
  make: () => Promise<readonly number[]>,
  lookAgain: boolean,
): Promise<readonly number[]> {
  const before = orders.get(key);
  const found =
    before && !(lookAgain && Date.now() - before.madeMs > ANEW_MS)
      ? before
      : { madeMs: Date.now(), ids: make(), size: 0 };
  orders.delete(key);
  orders.set(key, found);
  found.ids.then(
    ({ length }) => {
      found.size = length;
      let all = [...orders.values()].reduce((sum, { size }) => sum + size, 0);
      for (const [oldest, { size }] of orders) {
        if (oldest === key || (orders.size <= MOST_ORDERS && all <= MOST_IDS)) break;
        orders.delete(oldest);
        all -= size;
      }
    },
    () => orders.delete(key),
  );
  return found.ids;
}

/** Of a sheet with no more records than this the order is made with its head. */
const AT_ONCE = 20_000;
const EVALUATED_AT_ONCE = 1000;

/** The ids of the records that a view shows, in its order. */
async function idsOf(db: Database, sheet: SheetRow, { view, search, zone }: Looked): Promise<number[]> {
  const fields = fieldsOfSheet(sheet.columns);
  const at: ReadAt = { nowMs: Date.now(), zone };
  const ids = await orderedIds(db, sheet.id, sheet.columns, {
    narrowed: isAlways(view.if) ? PASSES : narrowing(view.if, fields, at),
    order: view.order,
    search,
  });
  if (isAlways(view.if)) return ids;
  // The database leaves out what it can tell by itself; the evaluator has the last word, a part at a time.
  const held: number[] = [];
  for (let from = 0; from < ids.length; from += EVALUATED_AT_ONCE) {
    const part = ids.slice(from, from + EVALUATED_AT_ONCE);
    const cells = new Map((await recordsByIds(db, sheet.id, part)).map((each) => [each.id, each.cells]));
    held.push(
      ...part.filter((id) =>
        holdsFor(
          view.if,
          fields,
          new Map(Object.entries(cells.get(id) ?? {}).map(([column, value]) => [`record.${column}`, value])),
          at,
        ),
      ),
    );
  }
  return held;
}

/** @throws 422 where what the view tests cannot be tested */
export function requireTestable(sheet: Pick<SheetRow, 'columns'>, view: SheetView): void {
  const [problem] = conditionProblems(view.if, fieldsOfSheet(sheet.columns));
  if (problem !== undefined)
    throw new Problem(422, problem, { errors: [{ field: 'view.if', detail: problem }] });
}

/**
 * A part of what a view of a sheet shows. The order is made once and then kept, so that nothing moves while one reads and
 * writes; what is in the records is as it is now.
 *
 * @param asOf the stamp of the order one reads on in; empty for the present one
 * @returns the part, with the stamp of its order: another than was asked for where that one is not known any more
 * @throws 403 for all but the desk; 404; 422 where what the view tests cannot be tested
 */
export async function gridPart(
  db: Database,
  actor: Actor,
  sheetId: number,
  looked: Looked,
  { from, asOf }: { from: number; asOf: string },
): Promise<GridPart> {
  const { sheet } = await requireSeeing(db, actor, sheetId);
  const view = fitted(looked.view, sheet.columns);
  requireTestable(sheet, view);
  const now = await stampOf(db, sheetId);
  const keyOf = (stamp: string): string =>
    JSON.stringify([sheetId, stamp, view.if, view.order, looked.search, looked.zone]);
  const whole = isAlways(view.if) && view.order.length === 0 && looked.search === '';
  const orders = ordersOf(db);
  const stamp = asOf !== '' && orders.has(keyOf(asOf)) ? asOf : now.stamp;
  if (whole && now.total > AT_ONCE && stamp === now.stamp && from === 0 && !orders.has(keyOf(stamp)))
    // The head of a large sheet is shown before the order of all that is in it is made.
    return {
      from,
      stamp,
      newer: false,
      total: now.total,
      records: await recordsInOrder(db, sheetId, await newestIds(db, sheetId, 0, PART)),
    };
  const ids = await kept(orders, keyOf(stamp), () => idsOf(db, sheet, { ...looked, view }), asOf === '');
  const records = new Map(
    (await recordsInOrder(db, sheetId, ids.slice(from, from + PART))).map((each) => [each.id, each]),
  );
  return {
    from,
    stamp,
    newer: stamp !== now.stamp,
    total: ids.length,
    records: ids.slice(from, from + PART).map((id) => records.get(id) ?? null),
  };
}

/** All records that a view shows, in its order, a part at a time. @throws as `gridPart` */
export async function* everyRecord(
  db: Database,
  sheet: SheetRow,
  looked: Looked,
): AsyncGenerator<{ id: number; cells: Record<string, string>; changedMs: number }[]> {
  const view = fitted(looked.view, sheet.columns);
  requireTestable(sheet, view);
  const ids = await idsOf(db, sheet, { ...looked, view });
  for (let from = 0; from < ids.length; from += EVALUATED_AT_ONCE)
    yield await recordsInOrder(db, sheet.id, ids.slice(from, from + EVALUATED_AT_ONCE));
}
