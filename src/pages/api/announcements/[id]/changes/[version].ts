import { changesSince } from '../../../../../server/announcements/service.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => changesSince(db, session.actor, id(), id('version')));
