import { publish, publishSchema } from '../../../../server/automations/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const POST = endpointWith(publishSchema, ({ revision }, { db, session, id }) =>
  publish(db, session.actor, id(), revision),
);
