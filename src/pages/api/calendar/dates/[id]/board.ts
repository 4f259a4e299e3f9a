import { boardForDate } from '../../../../../server/boards/session.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** Makes a board for those who come, or gives the one there is. */
export const POST = endpoint(async ({ db, session, id }) => ({
  id: await boardForDate(db, session.actor, id()),
}));
