import { sheetFile } from '../../../../server/sheets/taking.ts';
import { lookedAt } from '../../../../server/sheets/looking.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** What a view of a sheet shows, as a file: `as` is csv or json. */
export const GET = endpoint(({ db, session, id, context }) =>
  sheetFile(
    db,
    session.actor,
    id(),
    lookedAt(context.url.searchParams, session.zone),
    context.url.searchParams.get('as') === 'json' ? 'json' : 'csv',
  ),
);
