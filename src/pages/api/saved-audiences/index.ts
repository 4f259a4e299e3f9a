import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import {
  listSavedAudiences,
  saveAudience,
  saveAudienceSchema,
} from '../../../server/saved-audiences/service.ts';

export const GET = endpoint(({ db, session }) => listSavedAudiences(db, session.actor));

export const POST = endpointWith(saveAudienceSchema, (input, { db, session }) =>
  saveAudience(db, session.actor, input),
);
