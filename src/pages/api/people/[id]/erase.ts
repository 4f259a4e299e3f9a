import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { erasePerson } from '../../../../server/people/erasing.ts';

/** Erases somebody who has left; it cannot be undone. */
export const POST = endpointWith(z.object({ name: z.string().max(200) }), ({ name }, { db, session, id }) =>
  erasePerson(db, session.actor, id(), name),
);
