import { participantsCsv } from '../../../../../server/calendar/reading.ts';
import { csvResponse } from '../../../../../server/http/csvStream.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(async ({ db, session, id }) =>
  csvResponse('participants.csv', await participantsCsv(db, session.actor, id())),
);
