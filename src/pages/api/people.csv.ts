import { csvResponse } from '../../server/http/csvStream.ts';
import { endpoint } from '../../server/http/endpoint.ts';
import { peopleCsv } from '../../server/people/exporting.ts';

export const GET = endpoint(async ({ db, session }) =>
  csvResponse('people.csv', await peopleCsv(db, session.actor)),
);
