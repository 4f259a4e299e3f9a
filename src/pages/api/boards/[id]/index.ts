import { boardViewSchema } from '../../../../core/boards/readingSchema.ts';
import { openBoard } from '../../../../server/boards/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** A board with a page of its posts: the latest, those from a day on back, or those its reader has not read. */
export const GET = endpoint(({ db, session, id, context }) =>
  openBoard(
    db,
    session.actor,
    id(),
    boardViewSchema.parse(Object.fromEntries(context.url.searchParams)),
    session.zone,
  ),
);
