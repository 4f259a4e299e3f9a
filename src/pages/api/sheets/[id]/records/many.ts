import { endpointWithFile } from '../../../../../server/http/endpoint.ts';
import { bringRecords, MOST_BYTES } from '../../../../../server/sheets/bringing.ts';

/** Brings in the rows of a list, one JSON object a line, in one go or not at all. */
export const POST = endpointWithFile(
  () => MOST_BYTES,
  async (bytes, { db, session, id }) => ({ records: await bringRecords(db, session.actor, id(), bytes) }),
);
