import { checkInPage } from '../../../../server/asks/checkIns.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => checkInPage(db, session, id()));
