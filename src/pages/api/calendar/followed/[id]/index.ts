import { followedChangeSchema } from '../../../../../core/calendar/followedSchema.ts';
import { changeFollowing, followNoMore } from '../../../../../server/followed/service.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const PUT = endpointWith(followedChangeSchema, (input, { db, session, id, settings }) =>
  changeFollowing(db, session.actor, id(), input, settings.LOOKUP_ORIGINS),
);

/** Follows it no more; with `keep=yes` its sessions stay as our own, else those ahead go. */
export const DELETE = endpoint(({ db, session, id, context }) =>
  followNoMore(db, session.actor, id(), context.url.searchParams.get('keep') === 'yes'),
);
