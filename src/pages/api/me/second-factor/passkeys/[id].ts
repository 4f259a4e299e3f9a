import { endpoint } from '../../../../../server/http/endpoint.ts';
import { secondSettings } from '../../../../../server/http/secondSettings.ts';
import { removePasskey } from '../../../../../server/second-factor/own.ts';

export const DELETE = endpoint(({ db, session, id }) =>
  removePasskey(db, secondSettings(), session.actor, id()),
);
