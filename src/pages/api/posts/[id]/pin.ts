import { pinSchema } from '../../../../core/boards/board.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { pin } from '../../../../server/posts/pinning.ts';

/** Pins or unpins. A 409 problem with the member `pinned` where one must be taken down first. */
export const PUT = endpointWith(pinSchema, (input, { db, session, id }) =>
  pin(db, session.actor, id(), input, session.zone),
);
