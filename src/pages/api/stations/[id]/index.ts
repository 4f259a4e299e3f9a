import { stationChangeSchema } from '../../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { alterStation, deleteStation } from '../../../../server/people/stationService.ts';

export const PUT = endpointWith(stationChangeSchema, (input, { db, session, id }) =>
  alterStation(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => deleteStation(db, session.actor, id()));
