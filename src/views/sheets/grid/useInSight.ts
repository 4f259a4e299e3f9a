import { useEffect, useState, type RefObject } from 'react';
import type { DataGridHandle } from 'react-data-grid';
import type { useRows } from './useRows.ts';

/** The height of a row, in pixels. */
export const ROW_PX = 36;

/** Has the rows read that are in sight: those from a place on as one scrolls, and where one is once the order is another. */
export function useInSight(
  grid: RefObject<DataGridHandle | null>,
  { show, asOf }: ReturnType<typeof useRows>,
): (top: number) => void {
  const [height, setHeight] = useState(0);
  useEffect(() => {
    const element = grid.current?.element;
    if (!element) return;
    const watch = new ResizeObserver(() => setHeight(element.clientHeight));
    watch.observe(element);
    return () => watch.disconnect();
  }, [grid]);
  useEffect(() => {
    // Another order is read from where one is in it.
    const top = grid.current?.element?.scrollTop ?? 0;
    show(Math.floor(top / ROW_PX) - 5, Math.ceil((top + height) / ROW_PX) + 5);
  }, [grid, asOf, height, show]);
  return (top) => show(Math.floor(top / ROW_PX) - 5, Math.ceil((top + height) / ROW_PX) + 5);
}
