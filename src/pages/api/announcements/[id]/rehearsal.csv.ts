import { openAnnouncement } from '../../../../server/announcements/service.ts';
import { csvResponse } from '../../../../server/http/csvStream.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { rehearsalCsv } from '../../../../server/rehearsal/csv.ts';

export const GET = endpoint(async ({ db, session, id }) => {
  await openAnnouncement(db, session.actor, id());
  return csvResponse(`rehearsal-${id()}.csv`, rehearsalCsv(db, session.actor, id()));
});
