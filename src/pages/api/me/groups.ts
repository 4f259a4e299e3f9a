import { endpoint } from '../../../server/http/endpoint.ts';
import { myGroups } from '../../../server/groups/joining.ts';

/** What one is in, may come into, and looks after. */
export const GET = endpoint(({ db, session }) => myGroups(db, session.actor));
