import { savedViewSchema } from '../../../../../core/sheets/viewSchema.ts';
import { addView, viewsOf } from '../../../../../server/sheets/views.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

/** The views of a sheet that one has. */
export const GET = endpoint(({ db, session, id }) => viewsOf(db, session.actor, id()));

export const POST = endpointWith(savedViewSchema, async (view, { db, session, id }) => ({
  id: await addView(db, session.actor, id(), view),
}));
