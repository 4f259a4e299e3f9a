import { endpoint } from '../../../../server/http/endpoint.ts';
import { beginTakeout, latest } from '../../../../server/organisation/takeouts.ts';

/** The archive that is being made, or was made last. */
export const GET = endpoint(async ({ db, session }) => ({ takeout: await latest(db, session.actor) }));

/** Begins one; it goes on by itself. */
export const POST = endpoint(async ({ db, session, settings, log }) => {
  const { takeout } = await beginTakeout(db, session.actor, settings.CLEAR_BELL_URL, (error) =>
    log.error({ error }, 'The organisation could not be taken out'),
  );
  return { takeout };
});
