import { endpoint } from '../../../../server/http/endpoint.ts';
import { disconnectDevice } from '../../../../server/notices/service.ts';

export const DELETE = endpoint(({ db, session, id }) => disconnectDevice(db, session.actor, id()));
