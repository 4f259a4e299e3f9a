import { z } from 'zod';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { readNotices } from '../../../server/notices/service.ts';

const schema = z.object({ path: z.string().max(200).nullable().default(null) });

/** Marks as read: all, or what leads to a path. */
export const PUT = endpointWith(schema, ({ path }, { db, session }) =>
  readNotices(db, session.actor.id, path),
);
