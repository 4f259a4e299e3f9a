import { bringIdentitiesSchema } from '../../../core/directory/bringing.ts';
import { bringIdentities } from '../../../server/identities/bringing.ts';
import { directoryPage } from '../../../server/identities/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

/** In which systems people are known, and whom automations did not find. */
export const GET = endpoint(({ db, session }) => directoryPage(db, session.actor));

/** Looks at a list of what people are called in a system, or brings it in. */
export const POST = endpointWith(bringIdentitiesSchema, (list, { db, session }) =>
  bringIdentities(db, session.actor, list),
);
