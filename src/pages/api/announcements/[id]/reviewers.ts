import { endpoint } from '../../../../server/http/endpoint.ts';
import { reviewers } from '../../../../server/sharing/service.ts';

/** Who else may be asked to clear a draft. */
export const GET = endpoint(({ db, session, id }) => reviewers(db, session.actor, id()));
