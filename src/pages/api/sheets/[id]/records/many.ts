import { recordsSchema } from '../../../../../core/sheets/sheet.ts';
import { addRecords } from '../../../../../server/sheets/service.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

/** Brings in rows of a list, in one go or not at all. */
export const POST = endpointWith(recordsSchema, async ({ rows }, { db, session, id }) => ({
  records: await addRecords(db, session.actor, id(), rows),
}));
