import { Temporal } from 'temporal-polyfill';
import { z } from 'zod';
import { resolveMoment, type ResolvedMoment } from '../timing/wallTime.ts';

/** What becomes of those for whom the hour has passed already: they get it at once, a day later, or not. */
export const PASSED = ['at once', 'next day', 'not'] as const;
export const passedSchema = z.enum(PASSED);
export type Passed = z.infer<typeof passedSchema>;

/** The part of an occurrence that is due at one instant: one zone's readers, or everybody where `zone` is ''. */
export interface PlannedBucket {
  zone: string;
  /** Milliseconds since 1970. */
  dueMs: number;
  hour: ResolvedMoment['hour'];
  /** Whether it goes as planned, or what was chosen for a zone in which the hour had passed. */
  pastHour: 'as planned' | Passed;
}

const dayLater = (wall: string): string =>
  Temporal.PlainDateTime.from(wall).add({ days: 1 }).toString({ smallestUnit: 'minute' });

/**
 * The buckets of one occurrence at a wall-clock time: a single one in a named zone, or with `zone` null one for each
 * of the readers' zones, earliest first. What would be due before `earliestMs` is moved there in a named zone; by
 * readers' clocks it follows what was chosen.
 */
export function bucketsAt(
  wall: string,
  zone: string | null,
  zones: readonly string[],
  chosen: { passed?: Passed },
  earliestMs: number,
): PlannedBucket[] {
  if (zone !== null) {
    const resolved = resolveMoment({ wall, zone });
    return [
      {
        zone: '',
        dueMs: Math.max(earliestMs, resolved.epochMs),
        hour: resolved.hour,
        pastHour: 'as planned',
      },
    ];
  }
  return zones
    .map((each): PlannedBucket => {
      const resolved = resolveMoment({ wall, zone: each });
      if (resolved.epochMs >= earliestMs)
        return { zone: each, dueMs: resolved.epochMs, hour: resolved.hour, pastHour: 'as planned' };
      const passed = chosen.passed ?? 'not';
      if (passed !== 'next day') return { zone: each, dueMs: earliestMs, hour: 'ordinary', pastHour: passed };
      // A day later may have passed too, where the time was chosen long ago.
      const next = resolveMoment({ wall: dayLater(wall), zone: each });
      return { zone: each, dueMs: Math.max(earliestMs, next.epochMs), hour: next.hour, pastHour: 'next day' };
    })
    .sort((a, b) => a.dueMs - b.dueMs || a.zone.localeCompare(b.zone));
}
