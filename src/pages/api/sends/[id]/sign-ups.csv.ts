import { csvResponse } from '../../../../server/http/csvStream.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { signUpsCsv } from '../../../../server/sign-ups/service.ts';

export const GET = endpoint(async ({ db, session, id }) =>
  csvResponse(`sign-ups-${id()}.csv`, await signUpsCsv(db, session.actor, id())),
);
