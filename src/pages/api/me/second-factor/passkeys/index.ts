import { z } from 'zod';
import { passkeyNameSchema } from '../../../../../core/access/schemas.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';
import { secondSettings } from '../../../../../server/http/secondSettings.ts';
import { beginPasskey, keepPasskey } from '../../../../../server/second-factor/own.ts';
import { credentialSchema } from '../../../../../server/second-factor/passkeys.ts';

/** Begins to make a passkey: what the browser needs for it. */
export const POST = endpoint(({ db, session }) => beginPasskey(db, secondSettings(), session));

/** Keeps the passkey that was made. */
export const PUT = endpointWith(
  z.object({ name: passkeyNameSchema, response: credentialSchema }),
  (given, { db, session }) => keepPasskey(db, secondSettings(), session, given),
);
