import { PART } from '../../core/sheets/grid.ts';
import { WHOLE, type SheetView } from '../../core/sheets/view.ts';
import { viewFrom } from '../../core/sheets/viewSchema.ts';
import { Problem } from '../problem.ts';
import type { Looked } from './grid.ts';

const MOST_SOUGHT = 100;

function viewIn(text: string | null): SheetView {
  if (text === null) return WHOLE;
  const view = viewFrom(text);
  if (view) return view;
  const detail = 'This view cannot be read. Choose another, or make it anew.';
  throw new Problem(422, detail, { errors: [{ field: 'view', detail }] });
}

/** What an address says is looked at: `view`, a view as JSON, and `q`, what is looked for. @throws 422 */
export const lookedAt = (query: URLSearchParams, zone: string): Looked => ({
  view: viewIn(query.get('view')),
  search: (query.get('q') ?? '').trim().slice(0, MOST_SOUGHT),
  zone,
});

/** Which part an address asks for: `from`, the place of one of its records, and `asOf`, the stamp of its order. */
export function placeIn(query: URLSearchParams): { from: number; asOf: string } {
  const from = /^\d{1,9}$/.test(query.get('from') ?? '') ? Number(query.get('from')) : 0;
  return { from: Math.floor(from / PART) * PART, asOf: (query.get('asOf') ?? '').slice(0, 60) };
}
