import { endpoint } from '../../../../server/http/endpoint.ts';
import { settleReport } from '../../../../server/posts/reporting.ts';

/** Lets what was reported stand. */
export const POST = endpoint(({ db, session, id }) => settleReport(db, session.actor, id()));
