import { newTokenSchema } from '../../../core/api/token.ts';
import { listTokens, makeToken } from '../../../server/api/tokens.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listTokens(db, session.actor));

export const POST = endpointWith(newTokenSchema, (token, { db, session }) =>
  makeToken(db, session.actor, token),
);
