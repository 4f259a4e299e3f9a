import { announceDate } from '../../../../../server/calendar/announcing.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** Begins an announcement of a date. */
export const POST = endpoint(({ db, session, id }) => announceDate(db, session.actor, id()));
