import { newBoardSchema } from '../../../core/boards/boardSchemas.ts';
import { listBoards } from '../../../server/boards/service.ts';
import { makeBoard } from '../../../server/boards/settings.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

/** The boards the caller may see, with what is new on each. */
export const GET = endpoint(({ db, session }) => listBoards(db, session.actor));

/** Makes a board from a purpose. */
export const POST = endpointWith(newBoardSchema, async (input, { db, session }) => ({
  id: await makeBoard(db, session.actor, input),
}));
