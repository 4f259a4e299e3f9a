import { readNowSchema, readSheetNow } from '../../../../../server/sheets/following/service.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { askingIn } from '../../../../../server/sources/asking.ts';

export const POST = endpointWith(readNowSchema, ({ force }, { db, session, settings, id }) =>
  readSheetNow(db, session.actor, id(), force, askingIn(settings)),
);
