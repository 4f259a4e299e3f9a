import { forecastSchema } from '../../core/sends/forecast.ts';
import { requireDesk } from '../../server/accounts/require.ts';
import { endpointWith } from '../../server/http/endpoint.ts';
import { forecast } from '../../server/sends/forecast.ts';

export const POST = endpointWith(forecastSchema, ({ plan, brief }, { db, session }) => {
  requireDesk(session.actor);
  return forecast(db, session.actor, plan, brief);
});
