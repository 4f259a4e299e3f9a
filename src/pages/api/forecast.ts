import { z } from 'zod';
import { IMPORTANCES } from '../../core/content/announcement.ts';
import { planSchema } from '../../core/plan/plan.ts';
import { decide } from '../../core/rights/decide.ts';
import { endpointWith } from '../../server/http/endpoint.ts';
import { Problem } from '../../server/problem.ts';
import { forecast } from '../../server/sends/forecast.ts';

export const POST = endpointWith(
  z.object({ plan: planSchema, importance: z.enum(IMPORTANCES) }),
  ({ plan, importance }, { db, session }) => {
    const decision = decide(session.actor, { kind: 'see the desk' });
    if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
    return forecast(db, session.actor, plan, importance);
  },
);
