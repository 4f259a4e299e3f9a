import { stationMergeSchema } from '../../../../core/people/person.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { mergeStation } from '../../../../server/people/stationService.ts';

export const POST = endpointWith(stationMergeSchema, (input, { db, session, id }) =>
  mergeStation(db, session.actor, id(), input),
);
