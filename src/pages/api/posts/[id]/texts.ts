import { endpoint } from '../../../../server/http/endpoint.ts';
import { earlierTexts } from '../../../../server/posts/opening.ts';

/** The texts a post had before, for those who moderate its board and its author. */
export const GET = endpoint(({ db, session, id }) => earlierTexts(db, session.actor, id()));
