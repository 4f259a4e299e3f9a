import type { SheetRecord } from './sheet.ts';

/** Records that are read at once. */
export const PART = 100;

/** A part of what a view of a sheet shows. */
export interface GridPart {
  /** The place of its first record, from 0. */
  from: number;
  /** Of the order it is a part of. */
  stamp: string;
  /** Whether the sheet changed since that order was made: records may have come, gone, or belong elsewhere. */
  newer: boolean;
  /** How many records the order has. */
  total: number;
  /** What was deleted since is null. */
  records: (SheetRecord | null)[];
}
