import { followTrialSchema, tryFollowing } from '../../../../../server/sheets/following/service.ts';
import { askingIn, endpointWith } from '../../../../../server/http/endpoint.ts';

export const POST = endpointWith(followTrialSchema, (given, { db, session, settings, id }) =>
  tryFollowing(db, session.actor, id(), given, askingIn(settings)),
);
