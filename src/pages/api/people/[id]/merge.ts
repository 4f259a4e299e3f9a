import { mergeSchema } from '../../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { mergeOutlook, mergePeople } from '../../../../server/people/merging.ts';

/** What there is of this entry, before it is merged into another. */
export const GET = endpoint(({ db, session, id }) => mergeOutlook(db, session.actor, id()));

/** Makes another entry one with this person, who stays. */
export const POST = endpointWith(mergeSchema, ({ otherId, name }, { db, session, id }) =>
  mergePeople(db, session.actor, { keep: id(), other: otherId, name }),
);
