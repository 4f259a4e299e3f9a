import { copyAnnouncement } from '../../../../server/announcements/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session, id }) => ({
  id: await copyAnnouncement(db, session.actor, id()),
}));
