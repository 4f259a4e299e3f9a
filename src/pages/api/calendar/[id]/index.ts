import { sessionChangeSchema } from '../../../../core/calendar/session.ts';
import { changeSession } from '../../../../server/calendar/making.ts';
import { sessionPage } from '../../../../server/calendar/reading.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => sessionPage(db, session.actor, id()));

export const PUT = endpointWith(sessionChangeSchema, (input, { db, session, id }) =>
  changeSession(db, session.actor, id(), input),
);
