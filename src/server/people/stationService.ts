import type { z } from 'zod';
import { leavesOf } from '../../core/audience/expression.ts';
import type {
  StationLine,
  stationChangeSchema,
  stationMergeSchema,
  stationSchema,
} from '../../core/people/person.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { replaceInAudiences } from '../audience/renaming.ts';
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
  moveAll,
  moveClocks,
  setRetired,
  stationLines,
} from './stationStore.ts';

function requireLookingAfterStations(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
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

/**
 * Makes two stations one: whoever is or was at the one is at the other and goes on reading by the clock they read by, and what
 * was chosen by the one is chosen by the other.
 */
export async function mergeStation(
  db: Database,
  actor: Actor,
  id: number,
  { into }: z.infer<typeof stationMergeSchema>,
): Promise<StationLine[]> {
  requireLookingAfterStations(actor);
  if (into === id)
    throw new Problem(422, 'That is the same station.', {
      errors: [{ field: 'into', detail: 'That is the same station. Choose another.' }],
    });
  return transact(db, async (trx) => {
    // In one order, so that of two merges the other way round the second finds that there is nothing left.
    for (const each of [id, into].sort((a, b) => a - b))
      if (!(await lockStation(trx, each))) throw notFound('station');
    const moved = await moveAll(trx, id, into);
    await replaceInAudiences(
      trx,
      JSON.stringify({ kind: 'station', id }),
      JSON.stringify({ kind: 'station', id: into }),
    );
    await deleteStationById(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: 'merge station',
      subject: 'station',
      subjectId: into,
      detail: { from: id, moved },
    });
    return stationLines(trx);
  });
}

/** Retires a station: those who are there stay, and it is offered to nobody any more. Or takes it into use again. */
export async function retireStation(
  db: Database,
  actor: Actor,
  id: number,
  retired: boolean,
): Promise<StationLine[]> {
  requireLookingAfterStations(actor);
  return transact(db, async (trx) => {
    if (!(await lockStation(trx, id))) throw notFound('station');
    if (await setRetired(trx, id, retired))
      await record(trx, {
        actorId: actor.id,
        action: retired ? 'retire station' : 'use station again',
        subject: 'station',
        subjectId: id,
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
