import { occupationRenameSchema } from '../../../core/people/kinds.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { renameOccupation } from '../../../server/people/kinds.ts';

export const PUT = endpointWith(occupationRenameSchema, (given, { db, session }) =>
  renameOccupation(db, session.actor, given),
);
