import { askBox } from '../../../../server/asks/boxes.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** What is asked of the caller, with what they answered. */
export const GET = endpoint(({ db, settings, session, id }) =>
  askBox(db, settings.CLEAR_BELL_SECRET, { id: session.actor.id, zone: session.zone }, id()),
);
