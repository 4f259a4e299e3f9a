import type { RunSheetRow } from '../sends/send.ts';
import { isoDate } from '../timing/words.ts';

export const SPANS = { day: 1, week: 7, fortnight: 14 } as const;
export type Span = keyof typeof SPANS;
export type LaneBy = 'audience' | 'board' | 'author';

export const RUN_SHEET_STATES = ['scheduled', 'going out', 'sent', 'recalled', 'failed'] as const;

/** A period of time, and what of it is shown. */
export interface View {
  span: Span;
  /** Any instant on its first day. */
  fromMs: number;
  by: LaneBy;
  zone: string;
  search: string;
  state: '' | RunSheetRow['state'];
}

/** What of a view stands in the address: only what differs from how it is at first. */
export const viewInAddress = (view: View, own: { zone: string; nowMs: number }): Record<string, string> => ({
  span: view.span === 'day' ? '' : view.span,
  from:
    isoDate(view.fromMs, view.zone) === isoDate(own.nowMs, view.zone) ? '' : isoDate(view.fromMs, view.zone),
  by: view.by === 'audience' ? '' : view.by,
  zone: view.zone === own.zone ? '' : view.zone,
  state: view.state,
  q: view.search.trim(),
});
