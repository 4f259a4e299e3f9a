import { dateChangeSchema } from '../../../../../core/calendar/session.ts';
import { changeOneDate } from '../../../../../server/calendar/making.ts';
import { shownDate } from '../../../../../server/calendar/visible.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => shownDate(db, session.actor, id()));

/** Changes when and where one date is. */
export const PUT = endpointWith(dateChangeSchema, (input, { db, session, id }) =>
  changeOneDate(db, session.actor, id(), input),
);
