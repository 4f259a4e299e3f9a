import { absenceSchema } from '../../../../core/people/working.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { addAbsence } from '../../../../server/people/workingService.ts';

export const POST = endpointWith(absenceSchema, async (absence, { db, session }) => ({
  id: await addAbsence(db, session.actor, absence),
}));
