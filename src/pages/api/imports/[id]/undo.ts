import { endpoint } from '../../../../server/http/endpoint.ts';
import { undoImport } from '../../../../server/imports/apply.ts';

export const POST = endpoint(({ db, session, id }) => undoImport(db, session.actor, id()));
