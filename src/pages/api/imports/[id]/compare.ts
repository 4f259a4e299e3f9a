import { endpoint } from '../../../../server/http/endpoint.ts';
import { compareImport } from '../../../../server/imports/service.ts';

export const POST = endpoint(({ db, session, id }) => compareImport(db, session.actor, id()));
