import { editSchema } from '../../../../core/sheets/viewSchema.ts';
import { editRecords } from '../../../../server/sheets/editing.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** Changes, adds and deletes records in one go, or nothing of it. */
export const POST = endpointWith(editSchema, async (edit, { db, session, id }) => ({
  added: await editRecords(db, session.actor, id(), edit),
}));
