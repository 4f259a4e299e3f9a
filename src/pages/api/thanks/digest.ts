import { z } from 'zod';
import { monthSchema } from '../../../core/thanks/ribbon.ts';
import { monthWords } from '../../../core/timing/words.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { draftDigest } from '../../../server/thanks/service.ts';

const schema = z.object({ month: monthSchema });

/** A month's thanks as a draft. */
export const POST = endpointWith(schema, async ({ month }, { db, session }) => ({
  id: await draftDigest(db, session.actor, month, monthWords(month), session.zone),
}));
