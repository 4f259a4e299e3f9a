import { replay, replaySchema } from '../../../../server/automations/replay.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const POST = endpointWith(replaySchema, (automation, { db, session, id }) =>
  replay(db, session.actor, id(), automation),
);
