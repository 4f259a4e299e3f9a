import { checkInPage } from '../../../../server/asks/check-in/checkIns.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => checkInPage(db, session, id()));
