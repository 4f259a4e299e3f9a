import { z } from 'zod';
import { RUN_STATES } from '../../../core/automation/run.ts';
import { listRuns } from '../../../server/automations/runs.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

const querySchema = z.object({
  automation: z.coerce.number().int().positive().nullable(),
  state: z.enum(RUN_STATES).nullable(),
  before: z.coerce.number().int().positive().nullable(),
  find: z.string().max(80, 'At most 80 letters').nullable(),
});

/** The runs of one automation, or of all, the latest first. */
export const GET = endpoint(({ db, session, context }) => {
  const { searchParams } = context.url;
  const { automation, state, before, find } = querySchema.parse({
    automation: searchParams.get('automation'),
    state: searchParams.get('state'),
    before: searchParams.get('before'),
    find: searchParams.get('find'),
  });
  return listRuns(db, session.actor, {
    automationId: automation,
    states: state === null ? [] : [state],
    before,
    find: find ?? '',
  });
});
