import { appContext } from '../../../../server/http/appContext.ts';
import { openEndpoint } from '../../../../server/http/endpoint.ts';
import { lookInto, requireNobody } from '../../../../server/organisation/bringingIn.ts';
import { dropArchive, keepArchive, pathOf } from '../../../../server/organisation/keptArchives.ts';

/** Takes an archive of an organisation, where nobody is yet; gives what is in it, and the key it is brought in by. */
export const POST = openEndpoint(async ({ request }) => {
  const { db } = appContext();
  await requireNobody(db);
  const key = await keepArchive(request.body);
  try {
    return { key, ...(await lookInto(db, pathOf(key))) };
  } catch (error) {
    await dropArchive(key);
    throw error;
  }
});
