import { z } from 'zod';
import { endpoint } from '../../../server/http/endpoint.ts';
import { forMe } from '../../../server/inbox/service.ts';

const number = z.coerce.number().int().optional();
const pageSchema = z.object({ inboxMs: number, inboxId: number, postsMs: number, postsId: number });

/** What is for the caller, from before the ends named of what came to the inbox and what stands on boards. */
export const GET = endpoint(({ db, session, context }) => {
  const { inboxMs, inboxId, postsMs, postsId } = pageSchema.parse(
    Object.fromEntries(context.url.searchParams),
  );
  const end = (ms: number | undefined, id: number | undefined) =>
    ms === undefined || id === undefined ? null : { ms, id };
  const before = { inbox: end(inboxMs, inboxId), posts: end(postsMs, postsId) };
  return forMe(db, session.actor, before.inbox || before.posts ? before : null);
});
