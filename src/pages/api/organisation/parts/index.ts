import { requireLookingAfterPeople } from '../../../../server/accounts/require.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { dropArchive, keepArchive, pathOf } from '../../../../server/organisation/keptArchives.ts';
import { lookIntoParts } from '../../../../server/organisation/parts/service.ts';

/** Takes an archive; gives its parts beside what is here, and the key they are brought in by. */
export const POST = endpoint(async ({ db, session, context }) => {
  requireLookingAfterPeople(session.actor);
  const key = await keepArchive(context.request.body);
  try {
    return { key, ...(await lookIntoParts(db, session.actor, pathOf(key))) };
  } catch (error) {
    await dropArchive(key);
    throw error;
  }
});
