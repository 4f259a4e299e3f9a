import { checkInHistory, historySchema } from '../../../../server/asks/check-in/checkIns.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** What was said over the days: `search`, `person`, `question`, `from`, `to`, and where the page before ended. */
export const GET = endpoint(({ db, session, id, context }) =>
  checkInHistory(
    db,
    session,
    id(),
    historySchema.parse(
      Object.fromEntries([...context.url.searchParams].filter(([, value]) => value !== '')),
    ),
  ),
);
