import { endpoint } from '../../server/http/endpoint.ts';
import { rightsPage } from '../../server/people/rights.ts';

export const GET = endpoint(({ db, session }) => rightsPage(db, session.actor));
