import { holidaySchema } from '../../../../core/people/working.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { addHoliday } from '../../../../server/people/workingService.ts';

export const POST = endpointWith(holidaySchema, async (holiday, { db, session }) => ({
  id: await addHoliday(db, session.actor, holiday),
}));
