import { archiveKeySchema, partsChoiceSchema } from '../../../../../core/organisation/partsSchema.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';
import { pathOf } from '../../../../../server/organisation/keptArchives.ts';
import { bringInParts, lookIntoParts } from '../../../../../server/organisation/parts/service.ts';

/** The parts of an archive that was sent before, beside what is here now. */
export const GET = endpoint(({ db, session, context }) =>
  lookIntoParts(db, session.actor, pathOf(archiveKeySchema.parse(context.params.key))),
);

/** Brings chosen parts of it in. */
export const POST = endpointWith(partsChoiceSchema, async (choice, { db, session, context }) => ({
  brought: await bringInParts(db, session.actor, pathOf(archiveKeySchema.parse(context.params.key)), choice),
}));
