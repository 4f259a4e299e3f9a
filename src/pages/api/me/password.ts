import { changePasswordSchema } from '../../../core/access/schemas.ts';
import { changePassword } from '../../../server/access/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const PUT = endpointWith(changePasswordSchema, (input, { db, attempts, session, context }) =>
  changePassword(db, attempts, session, input, context.clientAddress),
);
