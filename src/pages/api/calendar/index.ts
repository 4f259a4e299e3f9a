import { z } from 'zod';
import { sessionSchema } from '../../../core/calendar/session.ts';
import { instantInAddress } from '../../../core/timing/bounds.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { makeSession } from '../../../server/calendar/making.ts';
import { calendarPage } from '../../../server/calendar/reading.ts';

const query = z.object({
  all: z.enum(['yes', 'no']).default('no'),
  startMs: instantInAddress.optional(),
  id: z.coerce.number().int().positive().optional(),
});

/** The dates ahead, a page at a time. */
export const GET = endpoint(({ db, session, context }) => {
  const { all, startMs, id } = query.parse(Object.fromEntries(context.url.searchParams));
  return calendarPage(db, session.actor, {
    everybodys: all === 'yes',
    after: startMs === undefined || id === undefined ? null : { startMs, id },
  });
});

/** Puts a session into the calendar. */
export const POST = endpointWith(sessionSchema, (input, { db, session }) =>
  makeSession(db, session.actor, input),
);
