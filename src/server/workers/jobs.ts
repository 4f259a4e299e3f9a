import { CalendarProblem, readCalendar, type IncomingCalendar } from '../../core/calendar/incoming.ts';
import type { Change } from '../../core/content/change.ts';
import { changesBetween } from '../comparing/changes.ts';

/** What is computed beside the process that serves others. What goes in and comes out can be cloned. */
export const JOBS = {
  compare: ({ before, after }: { before: string; after: string }): Change[] => changesBetween(before, after),
  calendar: ({
    text,
    ...options
  }: {
    text: string;
    zone: string;
    fromMs: number;
    toMs: number;
  }): { calendar: IncomingCalendar } | { problem: string } => {
    try {
      return { calendar: readCalendar(text, options) };
    } catch (error) {
      // An error of a class of ours would come out of the worker as any other.
      if (error instanceof CalendarProblem) return { problem: error.message };
      throw error;
    }
  },
};
export type Jobs = typeof JOBS;
