import { boardChangeSchema } from '../../../../core/boards/boardSchemas.ts';
import { boardSettings, changeBoardSettings } from '../../../../server/boards/settings.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

/** A board's settings, which whoever may see the board may read. */
export const GET = endpoint(({ db, session, id }) => boardSettings(db, session.actor, id()));

/** Changes what is given and leaves the rest. */
export const PUT = endpointWith(boardChangeSchema, (input, { db, session, id }) =>
  changeBoardSettings(db, session.actor, id(), input),
);
