import { recordSchema } from '../../../../../core/sheets/sheet.ts';
import { addRecord } from '../../../../../server/sheets/service.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

export const POST = endpointWith(recordSchema, async ({ cells }, { db, session, id }) => ({
  id: await addRecord(db, session.actor, id(), cells),
}));
