import { organisationSchema } from '../../../core/first-steps/steps.ts';
import { alterOrganisation } from '../../../server/first-steps/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const PUT = endpointWith(organisationSchema, (given, { db, session }) =>
  alterOrganisation(db, session.actor, given),
);
