import { readSchema } from '../../../../core/boards/readingSchema.ts';
import { readOnBoard } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** Notes what the caller has read on a board. */
export const PUT = endpointWith(readSchema, (read, { db, session, id }) =>
  readOnBoard(db, session.actor, id(), read),
);
