import { deliveriesCsv } from '../../../../server/after/service.ts';
import { csvResponse } from '../../../../server/http/csvStream.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(async ({ db, session, id }) =>
  csvResponse(`send-${id()}.csv`, await deliveriesCsv(db, session.actor, id())),
);
