import { endpoint } from '../../../../server/http/endpoint.ts';
import { signOnSettings } from '../../../../server/http/signOnSettings.ts';
import { tryProvider } from '../../../../server/sign-on/service.ts';

/** Looks whether the provider describes itself as it should. */
export const POST = endpoint(({ db, session, id }) => tryProvider(db, session.actor, signOnSettings(), id()));
