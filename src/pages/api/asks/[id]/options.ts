import { optionSchema } from '../../../../core/asks/poll/poll.ts';
import { decide } from '../../../../core/rights/decide.ts';
import { addOption, askedBy } from '../../../../server/asks/answering.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** Adds an option to a poll that has gone out. */
export const POST = endpointWith(optionSchema, async (given, { db, session, id }) => {
  const { occurrence } = await askedBy(db, id());
  const right = decide(session.actor, { kind: 'see send', authorId: occurrence.createdBy });
  return { id: await addOption(db, session.actor.id, id(), given, right.outcome === 'allowed') };
});
