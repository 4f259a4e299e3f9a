import { followTrialSchema, tryFollowing } from '../../../../../server/sheets/following/service.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { askingIn } from '../../../../../server/sources/asking.ts';

export const POST = endpointWith(followTrialSchema, (given, { db, session, settings, id }) =>
  tryFollowing(db, session.actor, id(), given, askingIn(settings)),
);
