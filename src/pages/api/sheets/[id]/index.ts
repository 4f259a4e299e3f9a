import { alterSheet, deleteSheet, sheetChangeSchema, sheetPage } from '../../../../server/sheets/service.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

const wholeNumber = (text: string | null): number | null =>
  text !== null && /^[1-9]\d{0,14}$/.test(text) ? Number(text) : null;

export const GET = endpoint(({ db, session, id, context }) =>
  sheetPage(db, session.actor, id(), {
    before: wholeNumber(context.url.searchParams.get('before')),
    search: (context.url.searchParams.get('q') ?? '').slice(0, 100),
  }),
);

export const PUT = endpointWith(sheetChangeSchema, (change, { db, session, id }) =>
  alterSheet(db, session.actor, id(), change),
);

export const DELETE = endpoint(({ db, session, id }) => deleteSheet(db, session.actor, id()));
