import { reportSchema } from '../../../../core/boards/board.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { reportReply } from '../../../../server/replies/service.ts';

export const POST = endpointWith(reportSchema, ({ reason }, { db, session, id }) =>
  reportReply(db, session.actor, id(), reason),
);
