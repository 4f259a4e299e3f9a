import { tryDatesSchema } from '../../../core/calendar/session.ts';
import { tryDates } from '../../../server/calendar/reading.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

/** When a session would take place, before it is saved. */
export const POST = endpointWith(tryDatesSchema, (input, { db, session }) =>
  tryDates(db, session.actor, input),
);
