import { auditQuerySchema } from '../../core/audit/query.ts';
import { auditCsv } from '../../server/audit/service.ts';
import { csvResponse } from '../../server/http/csvStream.ts';
import { endpoint } from '../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, context }) => {
  const query = auditQuerySchema.parse(Object.fromEntries(context.url.searchParams));
  return csvResponse('audit.csv', auditCsv(db, session, query));
});
