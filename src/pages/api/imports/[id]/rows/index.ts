import { z } from 'zod';
import { OUTCOMES } from '../../../../../core/imports/comparing.ts';
import { importRowsSchema } from '../../../../../core/imports/import.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';
import { addRows, importLines } from '../../../../../server/imports/service.ts';

const querySchema = z.object({
  kind: z.enum(OUTCOMES).default('new'),
  after: z.coerce.number().int().nonnegative().max(10_000_000).default(0),
});

export const GET = endpoint(({ db, session, context, id }) => {
  const { kind, after } = querySchema.parse(Object.fromEntries(context.url.searchParams));
  return importLines(db, session.actor, id(), kind, after);
});

export const POST = endpointWith(importRowsSchema, ({ rows }, { db, session, id }) =>
  addRows(db, session.actor, id(), rows),
);
