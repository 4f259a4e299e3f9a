import { endpoint } from '../../server/http/endpoint.ts';
import { howItRuns } from '../../server/operating/service.ts';

export const GET = endpoint(({ db, session }) => howItRuns(db, session.actor));
