import { workDaysSchema } from '../../../core/people/working.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { chooseWorkDays, working } from '../../../server/people/workingService.ts';

export const GET = endpoint(({ db, session }) => working(db, session.actor));

export const PUT = endpointWith(workDaysSchema, ({ workDays }, { db, session }) =>
  chooseWorkDays(db, session.actor, workDays),
);
