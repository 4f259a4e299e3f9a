import { keptChoiceSchema } from '../../../core/retention/choiceSchema.ts';
import { endpoint } from '../../../server/http/endpoint.ts';
import { foresee } from '../../../server/retention/service.ts';

/** What would be forgotten if `?kind=` were kept for `&days=`; without days, for good. */
export const GET = endpoint(({ db, session, context }) => {
  const days = context.url.searchParams.get('days');
  const choice = keptChoiceSchema.parse({
    kind: context.url.searchParams.get('kind'),
    days: days === null ? null : Number(days),
  });
  return foresee(db, session.actor, choice);
});
