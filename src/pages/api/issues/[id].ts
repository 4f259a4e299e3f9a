import { endpoint } from '../../../server/http/endpoint.ts';
import { seriesIndex } from '../../../server/series/service.ts';

/** The index of a series for whoever reads it. */
export const GET = endpoint(({ db, session, id }) => seriesIndex(db, session.actor, id()));
