import { sourceTrialSchema } from '../../../core/automation/source.ts';
import { trySource } from '../../../server/sources/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

/** Asks a source with given inputs and shows its answer; nothing is kept. */
export const POST = endpointWith(sourceTrialSchema, (input, { db, session, settings }) =>
  trySource(db, session.actor, input, {
    secret: settings.CLEAR_BELL_SECRET,
    inside: settings.LOOKUP_ORIGINS,
  }),
);
