import { gridPart } from '../../../../server/sheets/grid.ts';
import { lookedAt, placeIn } from '../../../../server/sheets/looking.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** A part of what a view of a sheet shows. */
export const GET = endpoint(({ db, session, id, context }) =>
  gridPart(
    db,
    session.actor,
    id(),
    lookedAt(context.url.searchParams, session.zone),
    placeIn(context.url.searchParams),
  ),
);
