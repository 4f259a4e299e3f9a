import { applySchema } from '../../../../core/imports/import.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { applyImport } from '../../../../server/imports/apply.ts';

export const POST = endpointWith(applySchema, ({ digest }, { db, session, id }) =>
  applyImport(db, session.actor, id(), digest),
);
