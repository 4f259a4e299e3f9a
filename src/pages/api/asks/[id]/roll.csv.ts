import { rollCsv } from '../../../../server/asks/csv.ts';
import { requireNames } from '../../../../server/asks/service.ts';
import { csvResponse } from '../../../../server/http/csvStream.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(async ({ db, session, id }) => {
  await requireNames(db, session.actor, id());
  return csvResponse(`roll-${id()}.csv`, rollCsv(db, session, id()));
});
