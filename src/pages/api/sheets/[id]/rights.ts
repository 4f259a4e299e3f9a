import { sheetRightsSchema } from '../../../../core/sheets/sheet.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { setRights } from '../../../../server/sheets/rights.ts';

/** Says who sees a sheet and who changes its records. */
export const PUT = endpointWith(sheetRightsSchema, (rights, { db, session, id }) =>
  setRights(db, session.actor, id(), rights),
);
