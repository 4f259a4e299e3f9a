import { endpoint } from '../../../../server/http/endpoint.ts';
import { resetSecondFactor } from '../../../../server/second-factor/own.ts';

/** Takes away the second step of somebody who has lost it. */
export const DELETE = endpoint(({ db, session, id }) => resetSecondFactor(db, session.actor, id()));
