import { savedViewSchema } from '../../../../../core/sheets/viewSchema.ts';
import { alterView, dropView } from '../../../../../server/sheets/views.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const PUT = endpointWith(savedViewSchema, (view, { db, session, id }) =>
  alterView(db, session.actor, id(), id('view'), view),
);

export const DELETE = endpoint(({ db, session, id }) => dropView(db, session.actor, id(), id('view')));
