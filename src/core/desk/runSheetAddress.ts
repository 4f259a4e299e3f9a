import { z } from 'zod';
import { dateSchema } from '../timing/bounds.ts';
import { endOfDate } from '../timing/day.ts';
import { RUN_SHEET_STATES, type View } from './runSheetView.ts';

const isZone = (zone: string): boolean => {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
};

const addressSchema = z.object({
  span: z.enum(['day', 'week', 'fortnight']).catch('day'),
  from: dateSchema('2026-12-01').optional().catch(undefined),
  by: z.enum(['audience', 'board', 'author']).catch('audience'),
  zone: z.string().refine(isZone).optional().catch(undefined),
  state: z.enum(['', ...RUN_SHEET_STATES]).catch(''),
  q: z.string().max(100).catch(''),
});

/** The view an address names, as `?span=week&from=2026-12-01`; what it does not name, or names wrongly, is as it is at first. */
export function viewFrom(search: string, own: { zone: string; nowMs: number }): View {
  const read = addressSchema.parse(Object.fromEntries(new URLSearchParams(search)));
  const zone = read.zone ?? own.zone;
  return {
    span: read.span,
    fromMs: read.from === undefined ? own.nowMs : endOfDate(read.from, zone),
    by: read.by,
    zone,
    search: read.q,
    state: read.state,
  };
}
