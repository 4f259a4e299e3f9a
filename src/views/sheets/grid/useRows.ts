import { useCallback, useEffect, useMemo, useState } from 'react';
import { PART, type GridPart } from '../../../core/sheets/grid.ts';
import type { SheetRecord } from '../../../core/sheets/sheet.ts';
import { sameView, WHOLE, type SheetView } from '../../../core/sheets/view.ts';
import { request } from '../../../ui/api.ts';
import { pathWith, refetch, useServer, useServerParts } from '../../../ui/server.ts';

/** What is seen of a sheet, as a query. */
export const seen = (view: SheetView, search: string): Record<string, string> => ({
  view: sameView(view, WHOLE) ? '' : JSON.stringify({ if: view.if, order: view.order, hidden: [] }),
  q: search,
});

/** A place in the grid: its record, or null until it is read, or where it was deleted. */
export interface GridRow {
  index: number;
  record: SheetRecord | null;
  /** While it is written in: the record as it was when that began, whatever becomes of it meanwhile. */
  saw?: SheetRecord;
}

/**
 * The records a view of a sheet shows, in one order that stays until it is made anew: those in sight are read, and no others.
 *
 * @param first the head of the whole sheet, as the page came with it
 */
export function useRows(sheetId: number, view: SheetView, search: string, first: GridPart) {
  const base = `/api/sheets/${sheetId}/grid` as const;
  const query = seen(view, search);
  const headPath = pathWith(base, query);
  const head = useServer(headPath, {
    keepPrevious: true,
    ...(headPath === base ? { first } : {}),
  });
  const [inSight, setInSight] = useState<readonly [number, number]>([0, 0]);
  const found = head.data ?? first;
  const { stamp: asOf, total } = found;
  const pathOf = useCallback(
    (part: number) => pathWith(headPath, { from: part * PART, asOf }),
    [headPath, asOf],
  );
  const last = Math.max(0, Math.ceil(total / PART) - 1);
  const [low, high] = [Math.min(inSight[0], last), Math.min(inSight[1], last)];
  const wanted = Array.from({ length: high - low + 1 }, (_, i) => low + i);
  const { parts, error } = useServerParts(head.isPlaceholderData ? [] : wanted.map(pathOf), {
    first: { path: pathOf(0), part: found },
    topics: [`sheet:${sheetId}`],
  });
  const blank = useMemo(
    () => Array.from({ length: total }, (_, index): GridRow => ({ index, record: null })),
    [total],
  );
  const rows = useMemo(() => {
    const all = blank.slice();
    for (const part of parts)
      if (part?.stamp === asOf)
        part.records.forEach((record, i) => {
          const index = part.from + i;
          if (record && index < all.length) all[index] = { index, record };
        });
    return all;
  }, [blank, parts, asOf]);
  const fetchAgain = useCallback(() => refetch(headPath), [headPath]);
  /** The records from one place to another, as they are now. @throws where the list is not in the order any more that one sees */
  const recordsFrom = async (from: number, to: number): Promise<(SheetRecord | null)[]> => {
    const records: (SheetRecord | null)[] = [];
    for (let part = Math.floor(from / PART); part * PART < Math.min(to, total); part++) {
      const read = await request('GET', pathOf(part));
      if (read.stamp !== asOf) {
        await fetchAgain();
        throw new Error('The list has changed meanwhile. Look at it, and paste again.');
      }
      records.push(...read.records);
    }
    const begin = Math.floor(from / PART) * PART;
    return records.slice(from - begin, Math.min(to, total) - begin);
  };
  const show = useCallback((from: number, to: number): void => {
    const [a, b] = [Math.floor(Math.max(0, from) / PART), Math.floor(Math.max(0, to) / PART)];
    setInSight((now) => (now[0] === a && now[1] === b ? now : [a, b]));
  }, []);
  const lost = parts.some((part) => part !== undefined && part.stamp !== asOf);
  useEffect(() => {
    // The order one reads on in is not known any more: what is in sight is read in the present one.
    if (lost) void fetchAgain();
  }, [lost, fetchAgain]);
  const newer = parts.some((part) => part?.newer === true);
  return {
    rows,
    total,
    asOf,
    query,
    newer,
    error: head.error ?? error,
    fetching: head.isPlaceholderData,
    fetchAgain,
    show,
    recordsFrom,
  };
}
