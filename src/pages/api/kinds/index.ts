import { endpoint } from '../../../server/http/endpoint.ts';
import { peopleKinds } from '../../../server/people/kinds.ts';

/** The occupations and attributes of people. */
export const GET = endpoint(({ db, session }) => peopleKinds(db, session.actor));
