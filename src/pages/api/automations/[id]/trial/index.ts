import { trialSchema, tryAutomation } from '../../../../../server/automations/trial.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

export const POST = endpointWith(trialSchema, (input, { db, session, settings, id }) =>
  tryAutomation(db, session.actor, id(), input, {
    secret: settings.CLEAR_BELL_SECRET,
    inside: settings.LOOKUP_ORIGINS,
  }),
);
