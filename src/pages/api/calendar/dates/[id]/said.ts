import { saidSchema } from '../../../../../core/calendar/session.ts';
import { sayOfDate } from '../../../../../server/calendar/answering.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

/** Says whether one comes. */
export const PUT = endpointWith(saidSchema, ({ said }, { db, session, id }) =>
  sayOfDate(db, session.actor, id(), said),
);
