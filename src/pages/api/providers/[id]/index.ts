import { changedProviderSchema } from '../../../../core/access/provider.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { signOnSettings } from '../../../../server/http/signOnSettings.ts';
import { alterProvider, removeProvider } from '../../../../server/sign-on/service.ts';

export const PUT = endpointWith(changedProviderSchema, (input, { db, session, id }) =>
  alterProvider(db, session.actor, signOnSettings(), id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => removeProvider(db, session.actor, id()));
