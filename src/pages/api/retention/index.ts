import { keptChoiceSchema } from '../../../core/retention/choiceSchema.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { chooseRetention, retention } from '../../../server/retention/service.ts';

export const GET = endpoint(({ db, session }) => retention(db, session.actor));

export const PUT = endpointWith(keptChoiceSchema, (choice, { db, session }) =>
  chooseRetention(db, session.actor, choice),
);
