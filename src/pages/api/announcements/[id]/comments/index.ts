import { commentSchema } from '../../../../../core/desk/comment.ts';
import { comment, listComments } from '../../../../../server/comments/service.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => listComments(db, session.actor, id()));

export const POST = endpointWith(commentSchema, (input, { db, session, id }) =>
  comment(db, session.actor, id(), input),
);
