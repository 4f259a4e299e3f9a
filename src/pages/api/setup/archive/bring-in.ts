import { comingOf, keepCameIn } from '../../../../server/http/cookie.ts';
import { openEndpointWith } from '../../../../server/http/endpoint.ts';
import { appContext } from '../../../../server/http/appContext.ts';
import { bringIn, bringInSchema } from '../../../../server/organisation/bringingIn.ts';
import { dropArchive, pathOf } from '../../../../server/organisation/keptArchives.ts';

/** Brings in an archive that was sent before; gives where to go on. */
export const POST = openEndpointWith(bringInSchema, async ({ key, ...input }, context) => {
  const { db, settings } = appContext();
  const came = await bringIn(db, settings.CLEAR_BELL_SECRET, pathOf(key), input, comingOf(context.request));
  await dropArchive(key);
  return { to: keepCameIn(context.cookies, came, '/run-sheet') };
});
