import { seriesSchema } from '../../../core/series/series.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { makeSeries } from '../../../server/series/service.ts';

export const POST = endpointWith(seriesSchema, async (frame, { db, session }) => ({
  id: await makeSeries(db, session.actor, frame),
}));
