import { forecastSchema } from '../../core/sends/forecast.ts';
import { demandDesk } from '../../server/accounts/demand.ts';
import { endpointWith } from '../../server/http/endpoint.ts';
import { forecast } from '../../server/sends/forecast.ts';

export const POST = endpointWith(forecastSchema, ({ plan, brief }, { db, session }) => {
  demandDesk(session.actor);
  return forecast(db, session.actor, plan, brief);
});
