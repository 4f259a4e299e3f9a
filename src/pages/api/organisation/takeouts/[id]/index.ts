import { endpoint } from '../../../../../server/http/endpoint.ts';
import { dropTakeout } from '../../../../../server/organisation/takeouts.ts';

/** Deletes an archive, or gives up one that is being made. */
export const DELETE = endpoint(({ db, session, id }) => dropTakeout(db, session.actor, id()));
