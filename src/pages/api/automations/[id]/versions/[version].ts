import { automationVersion } from '../../../../../server/automations/versions.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** A version that was put to work, with what changed in it and since. */
export const GET = endpoint(({ db, session, id }) =>
  automationVersion(db, session.actor, id(), id('version')),
);
