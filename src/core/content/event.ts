import { z } from 'zod';
import { resolveMoment } from '../timing/wallTime.ts';
import { momentSchema } from '../timing/wallTimeSchema.ts';
import { linkSchema } from './linkSchema.ts';
import type { ShownEvent } from './shownEvent.ts';

/** What an announcement invites to: when in a named zone, for how long, and where. */
export const eventSchema = z.object({
  ...momentSchema.shape,
  minutes: z
    .int()
    .min(5, 'It lasts at least 5 minutes')
    .max(7 * 1440, 'It lasts at most a week'),
  place: z.string().max(200, 'A place has at most 200 characters'),
  link: z.string().max(2000, 'A link has at most 2,000 characters'),
  /** Whether each reader gets a link of their own to pass on, under which others can sign up. */
  signUp: z.boolean(),
  /** The date of the calendar it is, of which readers say whether they come. */
  sessionDateId: z.int().positive().optional(),
});
export type EventDetails = z.infer<typeof eventSchema>;

/** When an event begins and ends, in milliseconds since 1970. */
export function eventSpan(event: EventDetails): { startMs: number; endMs: number } {
  const startMs = resolveMoment(event).epochMs;
  return { startMs, endMs: startMs + event.minutes * 60_000 };
}

/** An event as it is shown; null where there is none. */
export const shownEvent = (event: EventDetails | null): ShownEvent | null =>
  event && {
    startMs: eventSpan(event).startMs,
    zone: event.zone,
    minutes: event.minutes,
    place: event.place,
    link: eventLink(event),
    signUp: event.signUp,
    ...(event.sessionDateId === undefined ? {} : { sessionDateId: event.sessionDateId }),
  };

export const eventLink = (event: EventDetails): string | null =>
  event.link.trim() === '' ? null : (linkSchema.safeParse(event.link).data ?? null);
