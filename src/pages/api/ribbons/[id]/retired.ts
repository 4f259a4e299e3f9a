import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { changeRibbon } from '../../../../server/thanks/service.ts';

const schema = z.object({ retired: z.boolean() });

/** Takes a ribbon out of use, or brings it back. */
export const PUT = endpointWith(schema, ({ retired }, { db, session, id }) =>
  changeRibbon(db, session.actor, id(), retired),
);
