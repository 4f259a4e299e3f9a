import { followedSchema } from '../../../../core/calendar/followedSchema.ts';
import { follow, listFollowed } from '../../../../server/followed/service.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listFollowed(db, session.actor));

export const POST = endpointWith(followedSchema, (input, { db, session, settings }) =>
  follow(db, session.actor, input, settings.LOOKUP_ORIGINS),
);
