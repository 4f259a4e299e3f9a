import { noticeChoicesSchema } from '../../../core/notices/noticeSchema.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { chooseNotices, noticeSettings } from '../../../server/notices/service.ts';

export const GET = endpoint(({ db, session }) => noticeSettings(db, session.actor));

/** By which ways the caller is told of what. */
export const PUT = endpointWith(noticeChoicesSchema, (input, { db, session }) =>
  chooseNotices(db, session.actor, input),
);
