import { acknowledge } from '../../../../server/asks/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session, id }) => ({
  answeredMs: await acknowledge(db, session.actor.id, id(), 'page'),
}));
