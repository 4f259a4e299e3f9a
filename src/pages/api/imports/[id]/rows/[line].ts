import { clashDecisionSchema } from '../../../../../core/imports/import.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { decideClash } from '../../../../../server/imports/service.ts';

export const PUT = endpointWith(clashDecisionSchema, (given, { db, session, id }) =>
  decideClash(db, session.actor, id(), id('line'), given),
);
