import { z } from 'zod';
import { ROLL_PARTS } from '../../../../core/asks/roll.ts';
import { listRoll } from '../../../../server/asks/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

const querySchema = z.object({
  part: z.enum(ROLL_PARTS).default('all'),
  search: z.string().max(100).default(''),
  afterName: z.string().max(200).optional(),
  afterId: z.coerce.number().int().positive().optional(),
});

export const GET = endpoint(({ db, session, id, context }) => {
  const { part, search, afterName, afterId } = querySchema.parse(
    Object.fromEntries(context.url.searchParams),
  );
  const after = afterName !== undefined && afterId !== undefined ? { name: afterName, id: afterId } : null;
  return listRoll(db, session.actor, id(), { part, search, after });
});
