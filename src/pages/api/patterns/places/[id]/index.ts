import { endpoint } from '../../../../../server/http/endpoint.ts';
import { placePage } from '../../../../../server/patterns/offering.ts';
import { undoPlace } from '../../../../../server/patterns/undoing.ts';

export const GET = endpoint(({ db, session, settings, id }) =>
  placePage(db, session.actor, id(), settings.CLEAR_BELL_URL),
);

/** Takes a place back whole. */
export const DELETE = endpoint(({ db, session, id }) => undoPlace(db, session.actor, id()));
