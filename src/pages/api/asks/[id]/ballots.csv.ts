import { ballotsCsv } from '../../../../server/asks/results.ts';
import { csvResponse } from '../../../../server/http/csvStream.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(async ({ db, session, id }) =>
  csvResponse(`votes-${id()}.csv`, await ballotsCsv(db, session, id())),
);
