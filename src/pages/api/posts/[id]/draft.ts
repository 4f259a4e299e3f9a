import { endpoint } from '../../../../server/http/endpoint.ts';
import { draftOfPost } from '../../../../server/posts/writing.ts';

/** A post of one's own as it was written. */
export const GET = endpoint(({ db, session, id }) => draftOfPost(db, session.actor, id()));
