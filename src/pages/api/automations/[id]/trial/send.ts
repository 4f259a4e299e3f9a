import { sendTrial, trialSchema } from '../../../../../server/automations/trial.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

export const POST = endpointWith(trialSchema, async (input, { db, session, settings, id, idempotencyKey }) =>
  sendTrial(
    db,
    session.actor,
    id(),
    input,
    { secret: settings.CLEAR_BELL_SECRET, inside: settings.LOOKUP_ORIGINS },
    await idempotencyKey(),
  ),
);
