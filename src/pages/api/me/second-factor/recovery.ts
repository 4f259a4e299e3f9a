import { endpoint } from '../../../../server/http/endpoint.ts';
import { secondSettings } from '../../../../server/http/secondSettings.ts';
import { renewRecovery } from '../../../../server/second-factor/own.ts';

/** New recovery codes in the place of those before; they are shown this once. */
export const POST = endpoint(({ db, session }) => renewRecovery(db, secondSettings(), session.actor));
