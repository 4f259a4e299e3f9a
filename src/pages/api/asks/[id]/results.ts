import { openResults } from '../../../../server/asks/results.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => openResults(db, session, id()));
