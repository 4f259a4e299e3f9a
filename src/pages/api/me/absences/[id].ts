import { endpoint } from '../../../../server/http/endpoint.ts';
import { removeAbsence } from '../../../../server/people/workingService.ts';

export const DELETE = endpoint(({ db, session, id }) => removeAbsence(db, session.actor, id()));
