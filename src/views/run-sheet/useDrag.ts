import { useRef, useState, type MouseEvent, type PointerEvent } from 'react';
import type { RunSheetRow } from '../../core/sends/send.ts';

/** What is moved goes by this much. */
export const SNAP_MS = 15 * 60_000;

export const snapped = (ms: number): number => Math.round(ms / SNAP_MS) * SNAP_MS;

/** Where a mark is dragged along the axis, and what it is told of the pointer. */
export interface Drag {
  /** The occurrence that is held and where it is, in milliseconds since 1970. */
  held: { id: number; ms: number } | null;
  down: (event: PointerEvent, row: RunSheetRow) => void;
  move: (event: PointerEvent) => void;
  up: () => void;
  cancel: () => void;
  /** A click that ends a drag leads nowhere. */
  click: (event: MouseEvent) => void;
}

export function useDrag(
  fromMs: number,
  toMs: number,
  onMove: (row: RunSheetRow, toMs: number) => void,
): Drag {
  const [drag, setDrag] = useState<{ id: number; ms: number } | null>(null);
  const grip = useRef<{ row: RunSheetRow; x: number; width: number; moved: boolean } | null>(null);
  const justDragged = useRef(false);
  const down = (event: PointerEvent, row: RunSheetRow): void => {
    if (!row.movable || event.button !== 0) return;
    const svg = event.currentTarget.closest('[data-lane]');
    const width = svg?.getBoundingClientRect().width ?? 1;
    grip.current = { row, x: event.clientX, width, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent): void => {
    const held = grip.current;
    if (!held) return;
    const shift = ((event.clientX - held.x) / held.width) * (toMs - fromMs);
    if (Math.abs(event.clientX - held.x) > 4) held.moved = true;
    if (held.moved) setDrag({ id: held.row.occurrenceId, ms: snapped(held.row.dueMs + shift) });
  };
  const up = (): void => {
    const held = grip.current;
    grip.current = null;
    if (held?.moved && drag) {
      justDragged.current = true;
      onMove(held.row, drag.ms);
    }
    setDrag(null);
  };
  return {
    held: drag,
    down,
    move,
    up,
    cancel: () => {
      grip.current = null;
      setDrag(null);
    },
    click: (event) => {
      if (justDragged.current) event.preventDefault();
      justDragged.current = false;
    },
  };
}
