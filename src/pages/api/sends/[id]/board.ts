import { boardForSession } from '../../../../server/boards/session.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** Makes a board for those who signed up for the event of a send, or gives the one there is. */
export const POST = endpoint(async ({ db, session, id }) => ({
  id: await boardForSession(db, session.actor, id()),
}));
