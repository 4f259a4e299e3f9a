import type { Automation } from '../../core/automation/automation.ts';
import { holdsFor, type Fields } from '../../core/automation/condition.ts';
import { dateDue, type OnDate } from '../../core/automation/dates.ts';
import type { Row } from '../../core/automation/items.ts';
import type { Cells } from '../../core/sheets/sheet.ts';
import type { PastChange, PastRecord } from './replayStore.ts';

/** A record as it was from an instant until just before another, in milliseconds since 1970. */
interface Version {
  fromMs: number;
  untilMs: number;
  cells: Cells;
}

/** What came to pass with a record at an instant, and what it held from then on. */
export interface Moment {
  id: number;
  atMs: number;
  cells: Cells;
}

/** What a record held, as a row. */
export function rowOf(id: number, cells: Cells): Row {
  const values = new Map<string, string>();
  for (const column in cells) values.set(`record.${column}`, cells[column] ?? '');
  return { id, values };
}

/** The records of a sheet as they were at any instant of a period: what was deleted since is not known any more. */
export class PastSheet {
  readonly records: readonly PastRecord[];
  readonly changes: readonly PastChange[];
  readonly #ofRecord = new Map<number, PastChange[]>();
  /** The row of each record as it was made last for all of the sheet: most do not change from one time to the next. */
  readonly #lately = new Map<number, { cells: Cells; row: Row }>();

  /** @param changes in order */
  constructor(records: readonly PastRecord[], changes: readonly PastChange[]) {
    this.records = records;
    this.changes = changes;
    for (const each of changes) {
      const known = this.#ofRecord.get(each.recordId);
      if (known) known.push(each);
      else this.#ofRecord.set(each.recordId, [each]);
    }
  }

  cellsAt(record: PastRecord, atMs: number): Cells {
    const next = this.#ofRecord.get(record.id)?.find((each) => each.atMs > atMs);
    return next ? next.before : record.cells;
  }

  rowsAt(atMs: number): Row[] {
    return this.records
      .filter((record) => record.madeMs <= atMs)
      .map((record) => {
        const cells = this.cellsAt(record, atMs);
        const known = this.#lately.get(record.id);
        if (known?.cells === cells) return known.row;
        const row = rowOf(record.id, cells);
        this.#lately.set(record.id, { cells, row });
        return row;
      });
  }

  /** What was made and what changed from an instant on until before another, in order. */
  moments(fromMs: number, toMs: number): Moment[] {
    return [
      ...this.records
        .filter(({ madeMs }) => madeMs >= fromMs && madeMs < toMs)
        .map((record) => ({
          id: record.id,
          atMs: record.madeMs,
          cells: this.cellsAt(record, record.madeMs),
        })),
      ...this.changes
        .filter(({ atMs }) => atMs >= fromMs && atMs < toMs)
        .map((each) => ({ id: each.recordId, atMs: each.atMs, cells: each.after })),
    ].sort((a, b) => a.atMs - b.atMs);
  }

  #versions(record: PastRecord): Version[] {
    const versions: Version[] = [];
    let fromMs = record.madeMs;
    for (const { atMs, before } of this.#ofRecord.get(record.id) ?? []) {
      versions.push({ fromMs, untilMs: atMs, cells: before });
      fromMs = atMs;
    }
    return [...versions, { fromMs, untilMs: Infinity, cells: record.cells }];
  }

  /** The records of which a date was due in a period, by the instant, each as it was then. */
  due(when: OnDate, fromMs: number, toMs: number): Map<number, Row[]> {
    const found = new Map<number, Row[]>();
    const dues = new Map<string, number | null>();
    const dueOf = (cell: string): number | null => {
      const known = dues.get(cell);
      if (known !== undefined) return known;
      const dueMs = dateDue(when, cell);
      dues.set(cell, dueMs);
      return dueMs;
    };
    for (const record of this.records)
      for (const version of this.#versions(record)) {
        const dueMs = dueOf(version.cells[when.column] ?? '');
        if (dueMs === null || dueMs < fromMs || dueMs >= toMs) continue;
        if (dueMs < version.fromMs || dueMs >= version.untilMs) continue;
        const row = rowOf(record.id, version.cells);
        const known = found.get(dueMs);
        if (known) known.push(row);
        else found.set(dueMs, [row]);
      }
    return found;
  }
}

/** What came to meet a condition in a period, in the order in which it did. */
export function meetings(
  sheet: PastSheet,
  automation: Automation,
  fields: Fields,
  period: { fromMs: number; toMs: number; zone: string },
): Moment[] {
  const again = automation.when.kind === 'meets' && automation.when.again;
  const holds = ({ id, atMs, cells }: Moment): boolean =>
    holdsFor(automation.if, fields, rowOf(id, cells).values, { nowMs: atMs, zone: period.zone });
  const { fromMs, toMs } = period;
  const seen = new Map<number, boolean>();
  for (const record of sheet.records)
    if (record.madeMs < fromMs)
      seen.set(record.id, holds({ id: record.id, atMs: fromMs, cells: sheet.cellsAt(record, fromMs) }));
  const found: Moment[] = [];
  for (const moment of sheet.moments(fromMs, toMs)) {
    const was = seen.get(moment.id) ?? false;
    const is = holds(moment);
    if (is === was || (!is && !again)) continue;
    seen.set(moment.id, is);
    if (is) found.push(moment);
  }
  return found;
}
