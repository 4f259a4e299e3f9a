import { rehearsalPageSchema } from '../../../../../core/sends/rehearsal.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';
import { rehearsedPeople } from '../../../../../server/rehearsal/service.ts';

export const GET = endpoint(({ db, session, id, context }) => {
  const { afterName, afterId, ...rest } = rehearsalPageSchema.parse(
    Object.fromEntries(context.url.searchParams),
  );
  return rehearsedPeople(db, session.actor, id(), {
    ...rest,
    after: afterName !== undefined && afterId !== undefined ? { name: afterName, id: afterId } : null,
  });
});
