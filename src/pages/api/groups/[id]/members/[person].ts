import { removeMember } from '../../../../../server/groups/making.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

export const DELETE = endpoint(({ db, session, id }) => removeMember(db, session.actor, id(), id('person')));
