import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { retireStation } from '../../../../server/people/stationService.ts';

export const PUT = endpointWith(z.object({ retired: z.boolean() }), ({ retired }, { db, session, id }) =>
  retireStation(db, session.actor, id(), retired),
);
