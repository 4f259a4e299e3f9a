import { groupsNamedIn } from '../../core/audience/expression.ts';
import { byNeed, type AskListing, type Roll, type RollListing, type RollPart } from '../../core/asks/roll.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { condition } from '../audience/sql.ts';
import { transact, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { notFound, Problem } from '../problem.ts';
import { occurrenceById, type Occurrence } from '../sends/store.ts';
import {
  answerOf,
  answerOnce,
  asks,
  rollPage,
  tallies,
  talliesByStation,
  tallyWhere,
  type RollRow,
} from './store.ts';

const PAGE = 100;

/** Every ask this person may see, the latest first, with how full its roll is. */
export async function listAsks(db: Database, actor: Actor): Promise<AskListing[]> {
  const decision = decide(actor, { kind: 'see the desk' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const found = await asks(db, actor.role === 'coordinator' ? null : actor.id, 200);
  const counted = await tallies(
    db,
    found.map((ask) => ask.occurrenceId),
  );
  return found.map((ask) => ({ ...ask, tally: counted.get(ask.occurrenceId) ?? { asked: 0, answered: 0 } }));
}

async function openAsk(db: Database, actor: Actor, occurrenceId: number): Promise<Occurrence> {
  const occurrence = await occurrenceById(db, occurrenceId);
  if (
    !occurrence ||
    occurrence.plan.ask.kind === 'nothing' ||
    decide(actor, { kind: 'see send', authorId: occurrence.createdBy }).outcome === 'denied'
  )
    throw notFound('ask');
  return occurrence;
}

/** A roll as a whole and by group, the groups with least answered first. */
export async function openRoll(db: Database, actor: Actor, occurrenceId: number): Promise<Roll> {
  const occurrence = await openAsk(db, actor, occurrenceId);
  const now = await circumstances(db);
  const named = occurrence.plan.audience ? groupsNamedIn(occurrence.plan.audience) : [];
  const [counted, stations, groups] = await Promise.all([
    tallies(db, [occurrenceId]),
    talliesByStation(db, occurrenceId),
    Promise.all(
      named.map(async (id) => ({
        name: now.groups.get(id)?.name ?? 'A group that no longer exists',
        ...(await tallyWhere(db, occurrenceId, condition({ kind: 'group', id }, now))),
      })),
    ),
  ]);
  return {
    occurrenceId,
    title: occurrence.title,
    dueMs: occurrence.dueMs,
    deadlineMs: occurrence.deadlineMs,
    tally: counted.get(occurrenceId) ?? { asked: 0, answered: 0 },
    stations: byNeed(stations.map((station) => ({ ...station, name: station.name ?? 'No station' }))),
    groups: byNeed(groups.filter((group) => group.asked > 0)),
  };
}

/** A page of the people on a roll, by name. */
export async function listRoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  options: { part: RollPart; search: string; after: { name: string; id: number } | null },
): Promise<RollListing> {
  await openAsk(db, actor, occurrenceId);
  const found = await rollPage(db, occurrenceId, {
    ...options,
    search: options.search.trim(),
    most: PAGE + 1,
  });
  const people = found.slice(0, PAGE).map((row) => ({ ...row, left: row.left === 1 }));
  const last = people.at(-1);
  return { people, next: found.length > PAGE && last ? { name: last.name, id: last.personId } : null };
}

/** The whole roll, page after page, for a file. */
export async function* wholeRoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): AsyncGenerator<RollRow[]> {
  await openAsk(db, actor, occurrenceId);
  let after: { name: string; id: number } | null = null;
  do {
    const page: RollRow[] = await rollPage(db, occurrenceId, { part: 'all', search: '', after, most: 5000 });
    yield page;
    const last = page.at(-1);
    after = page.length === 5000 && last ? { name: last.name, id: last.personId } : null;
  } while (after);
}

/**
 * Records an acknowledgement. The first one counts; acknowledging again changes nothing and is no error, so that
 * a double tap, the mail and the page at once come to one answer.
 *
 * @returns when it was acknowledged, in milliseconds since 1970
 * @throws 404 where this person was not asked
 */
export async function acknowledge(
  db: Database,
  personId: number,
  occurrenceId: number,
  via: 'page' | 'mail',
): Promise<number> {
  await transact(db, async (trx) => {
    if (await answerOnce(trx, occurrenceId, personId, via))
      await publish(trx, [topics.roll(occurrenceId), topics.occurrence(occurrenceId), topics.desk]);
  });
  const answeredMs = await answerOf(db, occurrenceId, personId);
  if (answeredMs === undefined || answeredMs === null)
    throw new Problem(404, 'You are not asked to acknowledge this.');
  return answeredMs;
}
