import { z } from 'zod';
import { wallTimeSchema } from '../../../../core/timing/wallTimeSchema.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { comingOf, writeOne } from '../../../../server/sends/coming.ts';

/** What of a recurring send is still to come. */
export const GET = endpoint(({ db, session, id }) => comingOf(db, session.actor, id()));

/** Writes one of it before its turn, by the wall-clock time its rule gives; gives its id. */
export const POST = endpointWith(
  z.object({ recursAt: wallTimeSchema }),
  ({ recursAt }, { db, session, id }) => writeOne(db, session.actor, id(), recursAt),
);
