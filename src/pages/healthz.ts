import type { APIRoute } from 'astro';
import { appContext } from '../server/http/appContext.ts';
import { databaseNow } from '../server/database/connection.ts';

/** Live when it answers at all; ready, with 200, when the database answers too. */
export const GET: APIRoute = async () => {
  try {
    await databaseNow(appContext().db);
    return Response.json({ live: true, ready: true });
  } catch {
    return Response.json({ live: true, ready: false }, { status: 503 });
  }
};
