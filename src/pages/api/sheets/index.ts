import { sheetSchema } from '../../../core/sheets/sheet.ts';
import { listSheets, makeSheet } from '../../../server/sheets/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listSheets(db, session.actor));

export const POST = endpointWith(sheetSchema, async (shape, { db, session }) => ({
  id: await makeSheet(db, session.actor, shape),
}));
