import { reportSchema } from '../../../../core/boards/board.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { reportPost } from '../../../../server/posts/reporting.ts';

export const POST = endpointWith(reportSchema, ({ reason }, { db, session, id }) =>
  reportPost(db, session.actor, id(), reason),
);
