import { auditQuerySchema } from '../../../core/audit/query.ts';
import { auditPage } from '../../../server/audit/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, context }) => {
  const { before, ...query } = auditQuerySchema.parse(Object.fromEntries(context.url.searchParams));
  return auditPage(db, session, query, before);
});
