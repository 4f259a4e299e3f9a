import { endpoint } from '../../../../server/http/endpoint.ts';
import { earlierTextsOfReply } from '../../../../server/replies/service.ts';

/** The texts a reply had before. */
export const GET = endpoint(({ db, session, id }) => earlierTextsOfReply(db, session.actor, id()));
