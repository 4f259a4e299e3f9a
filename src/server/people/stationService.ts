import type { z } from 'zod';
import { leavesOf } from '../../core/audience/expression.ts';
import type { StationLine, stationChangeSchema, stationSchema } from '../../core/people/person.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { allGroups } from '../groups/store.ts';
import { notFound, Problem } from '../problem.ts';
import {
  changeStation,
  deleteStationById,
  insertStation,
  isInUse,
  lockStation,
  moveClocks,
  stationLines,
} from './stationStore.ts';

function requireLookingAfterStations(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the house' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a station of this name already.', {
    errors: [{ field: 'name', detail: 'There is a station of this name already. Choose another.' }],
  });
};

/** The stations by name; for those at the desk. */
export async function listStations(db: Database, actor: Actor): Promise<StationLine[]> {
  requireDesk(actor);
  return stationLines(db);
}

export async function makeStation(
  db: Database,
  actor: Actor,
  { name, zone }: z.infer<typeof stationSchema>,
): Promise<StationLine[]> {
  requireLookingAfterStations(actor);
  return transact(db, async (trx) => {
    const id = await insertStation(trx, name, zone).catch(nameTaken);
    await record(trx, { actorId: actor.id, action: 'make station', subject: 'station', subjectId: id });
    return stationLines(trx);
  });
}

/** Changes a station's name and zone. Those who read by its clock go along with the zone where that is wished. */
export async function alterStation(
  db: Database,
  actor: Actor,
  id: number,
  { name, zone, takesPeople }: z.infer<typeof stationChangeSchema>,
): Promise<StationLine[]> {
  requireLookingAfterStations(actor);
  return transact(db, async (trx) => {
    const before = await lockStation(trx, id);
    if (!before) throw notFound('station');
    await changeStation(trx, id, name, zone).catch(nameTaken);
    const moved = takesPeople && before.zone !== zone ? await moveClocks(trx, id, before.zone, zone) : 0;
    await record(trx, {
      actorId: actor.id,
      action: 'change station',
      subject: 'station',
      subjectId: id,
      detail: { name, zone, moved },
    });
    return stationLines(trx);
  });
}

/** Deletes a station at which nobody is or was and of which no rule speaks; a 409 problem that says why not. */
export async function deleteStation(db: Database, actor: Actor, id: number): Promise<StationLine[]> {
  requireLookingAfterStations(actor);
  return transact(db, async (trx) => {
    if (!(await lockStation(trx, id))) throw notFound('station');
    if (await isInUse(trx, id))
      throw new Problem(409, 'There are people at it, or were. Put them elsewhere first.');
    const rules = (await allGroups(trx)).filter(
      (group) =>
        group.kind === 'live' &&
        group.rule !== null &&
        leavesOf(group.rule).some((part) => part.kind === 'station' && part.id === id),
    );
    if (rules.length > 0)
      throw new Problem(
        409,
        `The rule of ${rules.map((group) => group.name).join(', ')} speaks of it. Change the rule first.`,
      );
    await deleteStationById(trx, id);
    await record(trx, { actorId: actor.id, action: 'delete station', subject: 'station', subjectId: id });
    return stationLines(trx);
  });
}
