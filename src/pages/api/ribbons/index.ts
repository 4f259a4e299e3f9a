import { newRibbonSchema } from '../../../core/thanks/ribbon.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { addRibbon } from '../../../server/thanks/service.ts';

/** Adds a ribbon. */
export const POST = endpointWith(newRibbonSchema, async (input, { db, session }) => ({
  id: await addRibbon(db, session.actor, input),
}));
