import { recordSchema } from '../../../../../core/sheets/sheet.ts';
import { alterRecord, deleteRecord, recordHistory } from '../../../../../server/sheets/service.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

/** What became of a record. */
export const GET = endpoint(({ db, session, id }) =>
  recordHistory(db, session.actor, id(), id('record'), session.zone),
);

export const PUT = endpointWith(recordSchema, ({ cells }, { db, session, id }) =>
  alterRecord(db, session.actor, id(), id('record'), cells),
);

export const DELETE = endpoint(({ db, session, id }) => deleteRecord(db, session.actor, id(), id('record')));
