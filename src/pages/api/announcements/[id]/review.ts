import { review, reviewSchema } from '../../../../server/announcements/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const POST = endpointWith(reviewSchema, (input, { db, session, id }) =>
  review(db, session.actor, id(), input),
);
