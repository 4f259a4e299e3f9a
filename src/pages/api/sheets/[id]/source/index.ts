import {
  followInputSchema,
  followNothing,
  followSource,
} from '../../../../../server/sheets/following/service.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';
import { askingIn } from '../../../../../server/sources/asking.ts';

/** Has a sheet follow an outside source. */
export const PUT = endpointWith(followInputSchema, (input, { db, session, settings, id }) =>
  followSource(db, session.actor, id(), input, askingIn(settings)),
);

export const DELETE = endpoint(({ db, session, id }) => followNothing(db, session.actor, id()));
