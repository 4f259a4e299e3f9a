import { seriesSchema } from '../../../../core/series/series.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { changeSeries } from '../../../../server/series/service.ts';

export const PUT = endpointWith(seriesSchema, (frame, { db, session, id }) =>
  changeSeries(db, session.actor, id(), frame),
);
