import type { z } from 'zod';
import {
  stepsOf,
  type FirstSteps,
  type organisationSchema,
  type Step,
} from '../../core/first-steps/steps.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { organisation } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { begun, changeOrganisation, setStepsLeft, stepsLeft } from './store.ts';

function requireLookingAfterAll(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** Where the first steps of the organisation stand; for coordinators. */
export async function firstSteps(db: Database, actor: Actor): Promise<FirstSteps> {
  requireLookingAfterAll(actor);
  const [home, there, left] = await Promise.all([organisation(db), begun(db), stepsLeft(db)]);
  if (!home) throw notFound('organisation');
  return { organisation: { name: home.name, zone: home.zone }, steps: stepsOf(there, new Set(left)) };
}

/** How many first steps are still to do; 0 for those whom they do not concern, and on the demo. */
export async function stepsToDo(db: Database, actor: Actor): Promise<number> {
  if (decide(actor, { kind: 'look after the organisation' }).outcome === 'denied') return 0;
  if ((await organisation(db))?.demo !== false) return 0;
  const { steps } = await firstSteps(db, actor);
  return steps.filter(({ state }) => state === 'to do').length;
}

/** Leaves a step for later, or takes it up again. */
export async function chooseStep(
  db: Database,
  actor: Actor,
  step: Step,
  later: boolean,
): Promise<FirstSteps> {
  requireLookingAfterAll(actor);
  await transact(db, async (trx) => {
    const left = new Set(await stepsLeft(trx, true));
    if (later) left.add(step);
    else left.delete(step);
    await setStepsLeft(trx, [...left]);
  });
  return firstSteps(db, actor);
}

/** Changes the organisation's name and the zone of what has none of its own. */
export async function alterOrganisation(
  db: Database,
  actor: Actor,
  { name, zone }: z.infer<typeof organisationSchema>,
): Promise<void> {
  requireLookingAfterAll(actor);
  await transact(db, async (trx) => {
    await changeOrganisation(trx, name, zone);
    await record(trx, {
      actorId: actor.id,
      action: 'change organisation',
      subject: 'organisation',
      subjectId: 1,
      detail: { name, zone },
    });
  });
}
