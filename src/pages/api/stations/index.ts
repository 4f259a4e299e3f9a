import { stationSchema } from '../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { listStations, makeStation } from '../../../server/people/stationService.ts';

export const GET = endpoint(({ db, session }) => listStations(db, session.actor));

export const POST = endpointWith(stationSchema, (input, { db, session }) =>
  makeStation(db, session.actor, input),
);
