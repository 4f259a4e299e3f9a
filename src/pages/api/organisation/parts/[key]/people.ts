import { archiveKeySchema } from '../../../../../core/organisation/partsSchema.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';
import { pathOf } from '../../../../../server/organisation/keptArchives.ts';
import { listOfPeople } from '../../../../../server/organisation/parts/service.ts';

/** Makes a list of its people, compared with the directory; gives the id of the import it is looked through by. */
export const POST = endpoint(async ({ db, session, context }) => ({
  id: await listOfPeople(db, session.actor, pathOf(archiveKeySchema.parse(context.params.key))),
}));
