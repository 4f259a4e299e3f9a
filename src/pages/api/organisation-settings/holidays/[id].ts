import { endpoint } from '../../../../server/http/endpoint.ts';
import { removeHoliday } from '../../../../server/people/workingService.ts';

export const DELETE = endpoint(({ db, session, id }) => removeHoliday(db, session.actor, id()));
