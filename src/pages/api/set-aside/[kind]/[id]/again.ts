import { ASIDE_WORDS } from '../../../../../core/desk/desk.ts';
import { tryAgain } from '../../../../../server/aside/service.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';
import { notFound } from '../../../../../server/problem.ts';

/** Has work of the engine tried again at once that failed and was set aside. */
export const POST = endpoint(({ db, session, id, context }) => {
  const kind = (Object.keys(ASIDE_WORDS) as (keyof typeof ASIDE_WORDS)[]).find(
    (each) => each === context.params.kind,
  );
  if (!kind) throw notFound('failure');
  return tryAgain(db, session.actor, kind, id());
});
