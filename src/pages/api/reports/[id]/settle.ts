import { endpoint } from '../../../../server/http/endpoint.ts';
import { letReportStand } from '../../../../server/posts/reporting.ts';

/** Lets what was reported stand. */
export const POST = endpoint(({ db, session, id }) => letReportStand(db, session.actor, id()));
