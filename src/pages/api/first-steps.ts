import { stepChoiceSchema } from '../../core/first-steps/steps.ts';
import { chooseStep, firstSteps } from '../../server/first-steps/service.ts';
import { endpoint, endpointWith } from '../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => firstSteps(db, session.actor));

export const PUT = endpointWith(stepChoiceSchema, ({ step, later }, { db, session }) =>
  chooseStep(db, session.actor, step, later),
);
