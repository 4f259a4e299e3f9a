import { z } from 'zod';
import { filledTemplate } from '../../../../server/gateways/outService.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** A template of an outside place as it would be filled in, of nothing but a trial. */
export const POST = endpointWith(z.object({ template: z.string().max(20_000) }), ({ template }, context) =>
  filledTemplate(context.db, context.session.actor, template, context.settings.CLEAR_BELL_URL),
);
