import { triedCalendarSchema } from '../../../../core/calendar/followedSchema.ts';
import { tryCalendar } from '../../../../server/followed/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** What is in a calendar, before it is brought in. */
export const POST = endpointWith(triedCalendarSchema, (whence, { db, session, settings }) =>
  tryCalendar(db, session.actor, whence, settings.LOOKUP_ORIGINS),
);
