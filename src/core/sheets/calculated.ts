import type { CellKind } from './cell.ts';

/** What a calculated column can hold. */
export const CALCULATED_KINDS = ['text', 'number', 'yes or no', 'date', 'moment'] as const;

export const mayCalculate = (kind: CellKind): boolean => CALCULATED_KINDS.some((each) => each === kind);
