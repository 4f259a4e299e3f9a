import {
  discardDraft,
  openAnnouncement,
  saveDraft,
  saveSchema,
} from '../../../../server/announcements/service.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => openAnnouncement(db, session.actor, id()));

export const PUT = endpointWith(saveSchema, (input, { db, session, id }) =>
  saveDraft(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => discardDraft(db, session.actor, id()));
