import { newProviderSchema } from '../../../core/access/provider.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { signOnSettings } from '../../../server/http/signOnSettings.ts';
import { addProvider, listProviders } from '../../../server/sign-on/service.ts';

export const GET = endpoint(({ db, session }) => listProviders(db, session.actor));

export const POST = endpointWith(newProviderSchema, (input, { db, session }) =>
  addProvider(db, session.actor, signOnSettings(), input),
);
