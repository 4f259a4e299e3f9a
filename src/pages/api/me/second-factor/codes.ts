import { confirmCodesSchema } from '../../../../core/access/schemas.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { secondSettings } from '../../../../server/http/secondSettings.ts';
import { beginCodes, confirmCodes, removeCodes } from '../../../../server/second-factor/own.ts';

/** Begins with codes from an app: the secret, and the picture of it. */
export const POST = endpoint(({ db, session }) => beginCodes(db, secondSettings().secret, session.actor.id));

/** Confirms them by the first code. */
export const PUT = endpointWith(confirmCodesSchema, ({ code }, { db, session }) =>
  confirmCodes(db, secondSettings(), session.actor, code),
);

export const DELETE = endpoint(({ db, session }) => removeCodes(db, secondSettings(), session.actor));
