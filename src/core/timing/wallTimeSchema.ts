import { Temporal } from 'temporal-polyfill';
import { z } from 'zod';
import { FAR, isNear } from './bounds.ts';
import { isZone } from './wallTime.ts';

/** A wall-clock time as an author means it, to the minute: `2026-12-01T09:00`. */
export const wallTimeSchema = z
  .string()
  .regex(/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$/, 'A date and a time are needed, such as 2026-12-01 09:00')
  .refine((wall) => {
    try {
      Temporal.PlainDateTime.from(wall, { overflow: 'reject' });
      return true;
    } catch {
      return false;
    }
  }, 'There is no such date')
  .refine(isNear, FAR);

export const zoneSchema = z.string().refine(isZone, 'No such time zone; choose one such as Europe/London');

/** A moment as it was meant: a wall-clock time in a zone. */
export const momentSchema = z.object({ wall: wallTimeSchema, zone: zoneSchema });
