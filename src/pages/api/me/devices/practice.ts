import { endpoint } from '../../../../server/http/endpoint.ts';
import { connectDevice } from '../../../../server/notices/service.ts';
import { practiceDevice } from '../../../../server/push/practice.ts';
import { notFound } from '../../../../server/problem.ts';

/** Connects a device of the stand-in push service; only where there is one. */
export const POST = endpoint(async ({ db, session, settings }) => {
  const standIn = settings.PUSH_STANDIN_URL;
  if (standIn === undefined) throw notFound('stand-in');
  await connectDevice(db, session.actor, await practiceDevice(standIn, session.name), standIn, session.hash);
});
