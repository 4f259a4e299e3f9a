import { z } from 'zod';
import { BOARD_FOLLOWINGS } from '../../../../core/boards/board.ts';
import { followBoard } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

const schema = z.object({ choice: z.enum(BOARD_FOLLOWINGS).nullable() });

export const PUT = endpointWith(schema, ({ choice }, { db, session, id }) =>
  followBoard(db, session.actor, id(), choice),
);
