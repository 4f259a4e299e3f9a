import { groupsNamedIn } from '../../core/audience/expression.ts';
import type { Importance } from '../../core/content/announcement.ts';
import { dueAt, mayUnsubscribe, planProblems, type Plan } from '../../core/plan/plan.ts';
import { sentence, type PlanNames } from '../../core/plan/sentence.ts';
import type { Forecast, Missed } from '../../core/sends/forecast.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { settledWords } from '../../core/timing/wallTime.ts';
import { people as peopleWords } from '../../core/words.ts';
import { countReach, leftFrom, namesWhere } from '../audience/store.ts';
import { boardsFor } from '../boards/service.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceNames, circumstances } from '../groups/directory.ts';

const SAMPLE = 50;

/** The names a plan is read aloud with. */
export async function planNames(db: Database, actor: Actor): Promise<PlanNames> {
  const now = await circumstances(db);
  const [names, boards] = await Promise.all([audienceNames(db, now), boardsFor(db, actor)]);
  const byId = new Map(boards.map((board) => [board.id, board.name]));
  return { ...names, board: (id) => byId.get(id) };
}

/**
 * What a plan would do if it were confirmed now: how many people, by which method, who would be missed and why.
 * Who is in is decided by the same condition the engine expands with.
 */
export async function forecast(
  db: Database,
  actor: Actor,
  plan: Plan,
  importance: Importance,
): Promise<Forecast> {
  const [now, boards, nowMs] = await Promise.all([circumstances(db), boardsFor(db, actor), databaseNow(db)]);
  const byId = new Map(boards.map((board) => [board.id, board]));
  const chosen = plan.boards.flatMap((id) => byId.get(id) ?? []);
  const names = { ...(await audienceNames(db, now)), board: (id: number) => byId.get(id)?.name };
  const problems = planProblems(plan, nowMs);
  if (chosen.length < plan.boards.length)
    problems.push({ field: 'boards', detail: 'A chosen board no longer exists. Choose the boards again.' });
  const gone = plan.audience ? groupsNamedIn(plan.audience).filter((id) => !now.groups.has(id)) : [];
  if (gone.length > 0)
    problems.push({ field: 'audience', detail: 'A chosen group no longer exists. Choose the groups again.' });

  const reach = plan.audience ? await countReach(db, plan.audience, now) : null;
  if (reach?.people === 0)
    problems.push({ field: 'audience', detail: 'Nobody is in this audience. Choose other groups.' });

  const stoppable = mayUnsubscribe(importance, plan.ask);
  const missed: Missed[] = [];
  if (plan.audience && reach && plan.mail && reach.withoutMail > 0) {
    const found = await namesWhere(db, plan.audience, now, 'no mail', SAMPLE);
    missed.push({
      kind: 'no mail address',
      n: reach.withoutMail,
      detail: `${peopleWords(reach.withoutMail)} without a mail address: the inbox only.`,
      names: found.map((person) => person.name),
    });
  }
  if (plan.audience && reach && plan.mail && stoppable && reach.mailStopped > 0) {
    const found = await namesWhere(db, plan.audience, now, 'mail stopped', SAMPLE);
    missed.push({
      kind: 'mail stopped',
      n: reach.mailStopped,
      detail: `${peopleWords(reach.mailStopped)} stopped mail of this kind: the inbox only.`,
      names: found.map((person) => person.name),
    });
  }
  if (plan.audience) {
    const fixed = groupsNamedIn(plan.audience).filter((id) => now.groups.get(id)?.kind === 'fixed');
    const left = await leftFrom(db, fixed, SAMPLE);
    if (left.length > 0)
      missed.push({
        kind: 'left',
        n: left.length,
        detail: `${peopleWords(left.length)} still listed in a fixed group but no longer here: nothing.`,
        names: left.map((person) => person.name),
      });
  }
  return {
    people: reach?.people ?? 0,
    byMail: reach && plan.mail ? reach.withMail - (stoppable ? reach.mailStopped : 0) : 0,
    boards: chosen.map(({ id, name }) => ({ id, name })),
    missed,
    onLeave: reach?.onLeave ?? 0,
    phrases: sentence(plan, names, nowMs),
    problems,
    dueMs: dueAt(plan.timing, nowMs),
    clockNote: plan.timing.kind === 'at' ? settledWords(plan.timing) : null,
    right: decide(actor, {
      kind: 'address',
      audience: plan.audience,
      boards: chosen.map((board) => board.rules),
    }),
  };
}
