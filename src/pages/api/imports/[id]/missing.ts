import { z } from 'zod';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { importMissing } from '../../../../server/imports/service.ts';

const querySchema = z.object({
  afterName: z.string().max(200).optional(),
  afterId: z.coerce.number().int().positive().optional(),
});

export const GET = endpoint(({ db, session, context, id }) => {
  const { afterName, afterId } = querySchema.parse(Object.fromEntries(context.url.searchParams));
  const after = afterName !== undefined && afterId !== undefined ? { name: afterName, id: afterId } : null;
  return importMissing(db, session.actor, id(), after);
});
