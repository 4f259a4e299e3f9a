import { endpoint } from '../../../../server/http/endpoint.ts';
import { secondSettings } from '../../../../server/http/secondSettings.ts';
import { secondFactor } from '../../../../server/second-factor/own.ts';

export const GET = endpoint(({ db, session }) => secondFactor(db, session.actor, secondSettings().demanded));
