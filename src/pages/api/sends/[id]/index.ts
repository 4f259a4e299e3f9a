import { endpoint } from '../../../../server/http/endpoint.ts';
import { sendPage } from '../../../../server/sends/page.ts';

export const GET = endpoint(({ db, session, id }) => sendPage(db, session.actor, id()));
