import { endpoint } from '../../../../server/http/endpoint.ts';
import { nextIssue } from '../../../../server/series/service.ts';

export const POST = endpoint(async ({ db, session, id }) => ({
  id: await nextIssue(db, session.actor, id()),
}));
