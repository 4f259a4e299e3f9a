import { endpoint } from '../../../../server/http/endpoint.ts';
import { takeBack } from '../../../../server/sends/changing.ts';

export const POST = endpoint(({ db, session, id }) => takeBack(db, session.actor, id()));
