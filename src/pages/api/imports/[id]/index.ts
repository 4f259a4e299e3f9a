import { importChangeSchema } from '../../../../core/imports/import.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { chooseMarksLeft, discardImport, importSummary } from '../../../../server/imports/service.ts';

export const GET = endpoint(({ db, session, id }) => importSummary(db, session.actor, id()));

export const PUT = endpointWith(importChangeSchema, ({ marksLeft }, { db, session, id }) =>
  chooseMarksLeft(db, session.actor, id(), marksLeft),
);

export const DELETE = endpoint(({ db, session, id }) => discardImport(db, session.actor, id()));
