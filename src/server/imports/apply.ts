import type { Change } from '../../core/imports/comparing.ts';
import {
  leavingProblem,
  UNDO_HOURS,
  type ImportSummary,
  type UndoOutcome,
} from '../../core/imports/import.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record, recordAll, type Deed } from '../audit/store.ts';
import {
  databaseNow,
  isDuplicate,
  transact,
  type Database,
  type Transaction,
} from '../database/connection.ts';
import { emitAll } from '../events/store.ts';
import { lockCoordinators, organisation } from '../people/store.ts';
import {
  deletePeople,
  insertPeople,
  setAllLeft,
  setAttributes,
  touched,
  updatePeople,
  type PersonColumns,
} from '../people/manyStore.ts';
import { insertStation, stationIds } from '../people/stationStore.ts';
import { Problem } from '../problem.ts';
import { compare, type Usable } from './compare.ts';
import { importSummary, requireImport } from './service.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { countsOf, everybodyKnown, setApplied, setUndone, type StoredImport } from './store.ts';
import { effectsOf, insertEffects, type Effect } from './effectStore.ts';

class ChangedSince extends Error {}

type Stations = Awaited<ReturnType<typeof stationIds>>;

/**
 * Brings a list in, all of it or, where anything fails, nothing. What it would do is worked out anew under a lock that every
 * import takes; where that is not what was agreed to, nothing is done and it is shown again.
 *
 * @throws 409 where it was brought in already, or the directory has changed since it was shown
 */
export async function applyImport(
  db: Database,
  actor: Actor,
  id: number,
  digest: string,
): Promise<ImportSummary> {
  requireLookingAfterPeople(actor);
  const found = await requireImport(db, id);
  try {
    await transact(db, (trx) => bringIn(trx, actor, id, digest));
  } catch (error) {
    if (!(error instanceof ChangedSince) && !isDuplicate(error)) throw error;
    await compare(db, found);
    throw new Problem(
      409,
      'The directory has changed since you looked at what this list would do. Look at it again; nothing was brought in.',
    );
  }
  return importSummary(db, actor, id);
}

async function requireStillCoordinator(trx: Transaction, actor: Actor): Promise<void> {
  if (!(await lockCoordinators(trx)).includes(actor.id))
    throw new Problem(403, 'You are not a coordinator any more. Somebody has just changed that.');
}

async function bringIn(trx: Transaction, actor: Actor, id: number, digest: string): Promise<void> {
  await requireStillCoordinator(trx, actor);
  const found = await requireImport(trx, id, true);
  if (found.state !== 'compared')
    throw new Problem(409, 'This list has been brought in already, or is not complete.');
  const rows: Usable[] = [];
  const compared = await compare(trx, found, (some) => rows.push(...some));
  if (compared.digest !== digest) throw new ChangedSince();

  const unclear = found.marksLeft ? leavingProblem(await countsOf(trx, id)) : null;
  if (unclear !== null) throw new Problem(409, unclear);
  const leaving = found.marksLeft ? compared.missing : [];
  const home = (await organisation(trx))?.zone ?? 'UTC';
  for (const name of compared.newStations) {
    const station = await insertStation(trx, name, home);
    await record(trx, { actorId: actor.id, action: 'make station', subject: 'station', subjectId: station });
  }
  const stations = await stationIds(trx);
  const added = await addNew(trx, rows, stations, home);
  const changed = await changeThose(trx, rows, stations);
  await setAllLeft(trx, leaving, true);
  const left = leaving.map((personId): Effect => ({ personId, kind: 'left', changes: [] }));
  const effects = [...added, ...changed, ...left];
  await insertEffects(trx, id, effects);
  await setApplied(trx, id);
  await notifyOf(trx, actor, found, effects);
}

const stationOf = (
  stations: Stations,
  name: string | undefined,
): Stations extends Map<string, infer S> ? S | undefined : never =>
  name === undefined || name === '' ? undefined : stations.get(name.toLowerCase());

async function addNew(
  trx: Transaction,
  rows: readonly Usable[],
  stations: Stations,
  home: string,
): Promise<Effect[]> {
  const fresh = rows.filter(({ outcome }) => outcome.kind === 'new').map(({ record: said }) => said);
  const ids = await insertPeople(
    trx,
    fresh.map((said) => {
      const station = stationOf(stations, said.station);
      return {
        name: said.name,
        sortName: said.sortName ?? '',
        greeting: said.greeting ?? '',
        mail: said.mail ?? null,
        stationId: station?.id ?? null,
        occupation: said.occupation ?? '',
        zone: said.zone ?? station?.zone ?? home,
        joinedOn: said.joinedOn ?? null,
      };
    }),
  );
  await setAttributes(
    trx,
    fresh.flatMap((said, at) =>
      Object.entries(said.attributes).map(([name, value]) => ({ personId: ids[at] ?? 0, name, value })),
    ),
  );
  return ids.map((personId) => ({ personId, kind: 'added', changes: [] }));
}

const attributeIn = (what: string): string | null => /^“(.*)”$/s.exec(what)?.[1] ?? null;

/** The columns of a person that changes set: to what they become, or back to what they were. */
function columnsOf(
  id: number,
  changes: readonly Change[],
  way: 'to' | 'from',
  stations: Stations,
): PersonColumns {
  const columns: PersonColumns = { id };
  for (const change of changes) {
    const value = change[way];
    if (change.what === 'name') columns.name = value;
    if (change.what === 'name to sort by') columns.sortName = value;
    if (change.what === 'greeting') columns.greeting = value;
    if (change.what === 'mail') columns.mail = value === '' ? null : value;
    if (change.what === 'station') columns.stationId = stationOf(stations, value)?.id ?? null;
    if (change.what === 'occupation') columns.occupation = value;
    if (change.what === 'zone') columns.zone = value;
    if (change.what === 'joined on') columns.joinedOn = value;
  }
  return columns;
}

const attributesOf = (
  personId: number,
  changes: readonly Change[],
  way: 'to' | 'from',
): { personId: number; name: string; value: string }[] =>
  changes.flatMap((change) => {
    const name = attributeIn(change.what);
    return name === null ? [] : [{ personId, name, value: change[way] }];
  });

async function changeThose(trx: Transaction, rows: readonly Usable[], stations: Stations): Promise<Effect[]> {
  const effects = rows.flatMap(({ outcome }): Effect[] => {
    if (outcome.personId === null || (outcome.kind !== 'changed' && outcome.kind !== 'returns')) return [];
    const kind = outcome.kind === 'returns' ? 'returned' : 'changed';
    return [{ personId: outcome.personId, kind, changes: outcome.changes }];
  });
  await updatePeople(
    trx,
    effects.map(({ personId, changes }) => columnsOf(personId, changes, 'to', stations)),
  );
  await setAttributes(
    trx,
    effects.flatMap(({ personId, changes }) => attributesOf(personId, changes, 'to')),
  );
  const back = effects.filter((effect) => effect.kind === 'returned').map((effect) => effect.personId);
  await setAllLeft(trx, back, false);
  return effects;
}

const EVENT_OF = {
  added: 'person.added',
  changed: 'person.changed',
  returned: 'person.returned',
  left: 'person.left',
} as const;
const ACTION_OF = { added: 'add', changed: 'change person', returned: 'return', left: 'leave' } as const;

/** Writes of each person what was done, so that their page and whoever follows knows. */
async function notifyOf(
  trx: Transaction,
  actor: Actor,
  found: StoredImport,
  effects: readonly Effect[],
): Promise<void> {
  const by = (...kinds: Effect['kind'][]): Effect[] =>
    effects.filter((effect) => kinds.includes(effect.kind));
  for (const kind of ['added', 'changed', 'returned', 'left'] as const)
    await emitAll(
      trx,
      EVENT_OF[kind],
      by(kind).map(({ personId }) => ({ person: personId })),
    );
  await recordAll(
    trx,
    effects.map(({ personId, kind, changes }): Deed => ({
      actorId: actor.id,
      action: ACTION_OF[kind],
      subject: 'person',
      subjectId: personId,
      detail: { import: found.id, changed: changes.map((change) => change.what) },
    })),
  );
  await record(trx, {
    actorId: actor.id,
    action: 'import people',
    subject: 'import',
    subjectId: found.id,
    detail: {
      file: found.fileName,
      added: by('added').length,
      changed: by('changed').length,
      returned: by('returned').length,
      left: by('left').length,
    },
  });
}

/**
 * Takes a list back within a day: who was added by it is gone, or marked as left where something has reached them already;
 * what it changed is as before, unless somebody has changed it again since.
 *
 * @throws 409 where it was not brought in, was taken back already, or too long ago
 */
export async function undoImport(db: Database, actor: Actor, id: number): Promise<UndoOutcome> {
  requireLookingAfterPeople(actor);
  return transact(db, async (trx) => takeBack(trx, actor, id)).catch((error: unknown) => {
    if (!isDuplicate(error)) throw error;
    throw new Problem(
      409,
      'A mail address that would be given back is somebody else’s by now. Change that first; nothing was taken back.',
    );
  });
}

async function takeBack(trx: Transaction, actor: Actor, id: number): Promise<UndoOutcome> {
  await requireStillCoordinator(trx, actor);
  const found = await requireImport(trx, id, true);
  if (found.state !== 'applied' || found.appliedMs === null)
    throw new Problem(
      409,
      'There is nothing to take back: it was not brought in, or was taken back already.',
    );
  if ((await databaseNow(trx)) > found.appliedMs + UNDO_HOURS * 3_600_000)
    throw new Problem(409, `It was brought in more than ${UNDO_HOURS} hours ago and stays.`);
  const effects = await effectsOf(trx, id);
  const added = effects.filter((effect) => effect.kind === 'added').map((effect) => effect.personId);
  const reached = await touched(trx, added);
  const gone = await deletePeople(
    trx,
    added.filter((person) => !reached.has(person)),
  );
  const stay = added.filter((person) => !gone.includes(person));
  const returned = effects.filter((effect) => effect.kind === 'returned').map((effect) => effect.personId);
  await setAllLeft(trx, [...stay, ...returned], true);
  const left = effects.filter((effect) => effect.kind === 'left').map((effect) => effect.personId);
  await setAllLeft(trx, left, false);
  const { restored, kept } = await restore(trx, effects);

  await emitAll(
    trx,
    'person.removed',
    gone.map((person) => ({ person })),
  );
  await emitAll(
    trx,
    'person.left',
    [...stay, ...returned].map((person) => ({ person })),
  );
  await emitAll(
    trx,
    'person.returned',
    left.map((person) => ({ person })),
  );
  await emitAll(
    trx,
    'person.changed',
    restored.map((person) => ({ person })),
  );
  await setUndone(trx, id);
  const outcome: UndoOutcome = {
    removed: gone.length,
    markedLeft: stay.length,
    restored: new Set([...restored, ...returned, ...left]).size,
    kept,
  };
  await record(trx, {
    actorId: actor.id,
    action: 'take back import',
    subject: 'import',
    subjectId: id,
    detail: { ...outcome },
  });
  return outcome;
}

/** Sets back what is still as an import left it. */
async function restore(
  trx: Transaction,
  effects: readonly Effect[],
): Promise<{ restored: number[]; kept: number }> {
  const wanted = new Map(
    effects.filter((effect) => effect.changes.length > 0).map((effect) => [effect.personId, effect.changes]),
  );
  if (wanted.size === 0) return { restored: [], kept: 0 };
  const stations = await stationIds(trx);
  const columns: PersonColumns[] = [];
  const attributes: { personId: number; name: string; value: string }[] = [];
  let kept = 0;
  for await (const page of everybodyKnown(trx))
    for (const known of page) {
      const now = (what: string): string => {
        const attribute = attributeIn(what);
        if (attribute !== null) return known.attributes[attribute] ?? '';
        if (what === 'joined on') return known.joinedOn;
        if (what === 'name to sort by') return known.sortName;
        return (
          {
            name: known.name,
            greeting: known.greeting,
            mail: known.mail,
            station: known.station,
            occupation: known.occupation,
            zone: known.zone,
          }[what] ?? ''
        );
      };
      const changes = wanted.get(known.id) ?? [];
      const still = changes.filter((change) => now(change.what).toLowerCase() === change.to.toLowerCase());
      kept += changes.length - still.length;
      if (still.length === 0) continue;
      columns.push(columnsOf(known.id, still, 'from', stations));
      attributes.push(...attributesOf(known.id, still, 'from'));
    }
  await updatePeople(trx, columns);
  await setAttributes(trx, attributes);
  return { restored: columns.map((each) => each.id), kept };
}
