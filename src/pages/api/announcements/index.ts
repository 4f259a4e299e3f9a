import { beginDraft } from '../../../server/announcements/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session }) => ({ id: await beginDraft(db, session.actor) }));
