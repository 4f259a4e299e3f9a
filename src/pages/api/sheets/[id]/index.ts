import { alterSheet, deleteSheet, sheetChangeSchema, sheetHead } from '../../../../server/sheets/service.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

/** The sheet; its records are read by what is looked at of them. */
export const GET = endpoint(({ db, session, id }) => sheetHead(db, session.actor, id()));

export const PUT = endpointWith(sheetChangeSchema, (change, { db, session, id }) =>
  alterSheet(db, session.actor, id(), change),
);

export const DELETE = endpoint(({ db, session, id }) => deleteSheet(db, session.actor, id()));
