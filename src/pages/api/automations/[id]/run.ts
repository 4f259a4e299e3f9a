import { lookAhead } from '../../../../server/automations/runAhead.ts';
import { runNow } from '../../../../server/automations/runs.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** What it would say if it ran now. */
export const GET = endpoint(({ db, session, settings, id }) =>
  lookAhead(db, session.actor, id(), {
    secret: settings.CLEAR_BELL_SECRET,
    inside: settings.LOOKUP_ORIGINS,
  }),
);

export const POST = endpoint(async ({ db, session, id, idempotencyKey }) =>
  runNow(db, session.actor, id(), await idempotencyKey()),
);
